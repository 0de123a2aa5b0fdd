<script setup lang="ts">
/** The guide: ten jobs as people have them, a page of steps each, and what chance does. */
import { computed } from "vue";
import { useRouter } from "vue-router";

import { PAGES, shown } from "./pages";
import NothingHere from "@/parts/NothingHere.vue";
import FieldTallyMark from "@/shell/frame/FieldTallyMark.vue";
import { useMeHere } from "@/shell/query";

const props = defineProps<{ page?: string }>();
const router = useRouter();
const me = useMeHere();
const at = computed(() => PAGES.findIndex((one) => one.key === props.page));
const open = computed(() => PAGES[at.value]);
const next = computed(() => PAGES[at.value + 1]);
const html = computed(() => (open.value ? shown(open.value) : ""));
/** A link inside a page goes through the app, without loading it anew. */
function follow(event: MouseEvent): void {
  const link = (event.target as HTMLElement).closest("a");
  const where = link?.getAttribute("href");
  if (!where?.startsWith("/") || event.metaKey || event.ctrlKey) return;
  event.preventDefault();
  void router.push(where);
}
</script>

<template>
  <div class="mx-auto max-w-6xl p-4 lg:px-8 lg:py-6">
    <header v-if="!me" class="flex flex-wrap items-center justify-between gap-x-6">
      <FieldTallyMark />
      <RouterLink to="/" class="quiet inline-flex items-center">Shelf</RouterLink>
    </header>
    <div class="mt-5 grid items-start gap-6 lg:grid-cols-[17rem_minmax(0,1fr)]">
      <nav aria-label="Guide" :class="{ 'hidden lg:block': open }">
        <h1 v-if="!props.page" class="text-[2rem]">Guide</h1>
        <ul class="mt-2 grid">
          <li v-for="one in PAGES" :key="one.key">
            <RouterLink
              :to="{ name: 'guide', params: { page: one.key } }"
              class="entry"
              :class="{ here: one.key === props.page }"
              >{{ one.title }}</RouterLink
            >
          </li>
        </ul>
      </nav>
      <NothingHere v-if="props.page && !open" says="There is no such page in the guide." />
      <main v-else-if="open" class="sheet p-5 lg:p-8">
        <RouterLink :to="{ name: 'guide' }" class="quiet inline-flex items-center lg:hidden"
          >All pages of the guide</RouterLink
        >
        <h1 class="text-[1.9rem]">{{ open.title }}</h1>
        <!-- eslint-disable-next-line vue/no-v-html -- the documentation of this project alone -->
        <div class="told mt-3 max-w-3xl" @click="follow" v-html="html" />
        <p v-if="next" class="rule mt-8 pt-4">
          Next:
          <RouterLink :to="{ name: 'guide', params: { page: next.key } }">{{ next.title }}</RouterLink>
        </p>
      </main>
      <main v-else class="sheet p-5 lg:p-8">
        <p class="max-w-2xl text-[1.15rem]">
          Ten jobs as people have them, a page of steps each; what is underlined in a step opens the place it
          speaks of. The last page tells what chance does, with the dry run to try it on.
        </p>
      </main>
    </div>
  </div>
</template>

<style scoped>
.entry {
  display: flex;
  align-items: center;
  min-height: 44px;
  padding: 0.3rem 0.6rem;
  border-left: 4px solid transparent;
  text-decoration: none;
}
.entry:hover {
  text-decoration: underline;
}
.here {
  border-left-color: var(--ink);
  font-weight: 700;
}
.told :deep(p) {
  margin-top: 0.8rem;
}
.told :deep(ol) {
  list-style: none;
  counter-reset: step;
  padding: 0;
}
.told :deep(li) {
  counter-increment: step;
  position: relative;
  padding: 0.7rem 0 0.7rem 2.2rem;
  border-bottom: 1px solid var(--line);
}
.told :deep(li)::before {
  content: counter(step);
  position: absolute;
  left: 0;
  font-weight: 700;
}
</style>
