<script setup lang="ts">
/** The frame of everywhere: the places that one tap leads to, at the side of a wide screen and under the
 * thumb on a phone. */
import { ref } from "vue";
import { useRoute } from "vue-router";

import { AT_HAND, PLACES } from "../places";
import { goOut } from "../people/goOut";
import { useMe } from "../query";
import { router } from "../router";
import { finding } from "./finding";
import DialogSheet from "@/parts/DialogSheet.vue";

const route = useRoute();
const { data: me } = useMe();
const more = ref(false);
const here = (key: string) => route.name === key || (key === "practice" && route.name === "practice-run");
const find = () => (finding.value = true);
function go(to: string): void {
  more.value = false;
  void router.push(to);
}
async function leave(): Promise<void> {
  more.value = false;
  await goOut();
}
</script>

<template>
  <nav class="places no-print" aria-label="Places">
    <RouterLink to="/" class="sign" aria-label="Field Tally, to your shelf">
      <svg viewBox="0 0 26 20" class="h-6 w-8" aria-hidden="true">
        <path
          d="M4 1v16M9.5 1v16M15 1v16M20.5 1v16M0 15 25 4"
          fill="none"
          stroke="currentColor"
          stroke-width="2.6"
        />
      </svg>
    </RouterLink>
    <ul>
      <li
        v-for="one in PLACES"
        :key="one.key"
        :class="[one.key, { 'wide-only': !AT_HAND.includes(one.key) }]"
      >
        <RouterLink
          :to="one.to"
          class="place"
          :class="{ here: here(one.key) }"
          :aria-current="here(one.key) ? 'page' : undefined"
          :aria-label="one.short === one.name ? undefined : one.name"
          >{{ one.short }}</RouterLink
        >
      </li>
      <li class="find">
        <button type="button" class="place" aria-keyshortcuts="/" @click="find">Find</button>
      </li>
      <li class="phone-only">
        <button type="button" class="place" aria-haspopup="dialog" @click="more = true">More</button>
      </li>
    </ul>
  </nav>
  <DialogSheet :open="more" title="More places" @close="more = false">
    <ul class="mt-3 grid gap-2 sm:grid-cols-2">
      <li v-for="one in PLACES.filter((place) => !AT_HAND.includes(place.key))" :key="one.key">
        <a
          :href="one.to"
          class="press w-full flex-col items-start gap-0 text-left"
          @click.prevent="go(one.to)"
          >{{ one.name }}<span class="font-normal text-soft">{{ one.says }}</span></a
        >
      </li>
      <li v-if="me?.demo">
        <a href="/mailbox" class="press w-full justify-between" @click.prevent="go('/mailbox')">Mailbox</a>
      </li>
    </ul>
    <p class="mt-4 flex flex-wrap gap-3">
      <button type="button" class="press" @click="leave">Sign out</button>
      <button type="button" class="press press-main" @click="more = false">Close</button>
    </p>
  </DialogSheet>
</template>

<style scoped>
.places {
  position: fixed;
  inset: auto 0 0;
  z-index: 20;
  background: var(--sheet);
  border-top: 2px solid var(--ink);
  padding-bottom: env(safe-area-inset-bottom);
}
.sign {
  display: none;
}
.places ul {
  display: flex;
}
.places li {
  flex: 1 1 0;
}
.place {
  display: flex;
  align-items: center;
  justify-content: center;
  width: 100%;
  min-height: calc(var(--bar) - 2px);
  text-decoration: none;
  text-align: center;
  font-size: 0.95rem;
  font-weight: 500;
}
.place.here {
  font-weight: 700;
  box-shadow: inset 0 6px 0 var(--ink);
}
.wide-only {
  display: none;
}
@media (min-width: 64rem) {
  .places {
    inset: 0 auto 0 0;
    width: var(--rail);
    border-top: 0;
    border-right: 2px solid var(--ink);
    padding: 0;
    overflow-y: auto;
    scrollbar-width: none;
  }
  .sign {
    display: grid;
    place-items: center;
    min-height: 68px;
  }
  .places ul {
    flex-direction: column;
    min-height: calc(100% - 68px);
  }
  .places li {
    flex: none;
  }
  .place {
    min-height: 48px;
  }
  .place:hover {
    text-decoration: underline;
    text-underline-offset: 4px;
  }
  .place.here {
    box-shadow: inset 7px 0 0 var(--ink);
  }
  .find {
    order: -1;
  }
  .wide-only {
    display: block;
  }
  .phone-only {
    display: none;
  }
  /* What waits stands first, then tools, and at the foot what is one's own. */
  .known {
    margin-top: 8px;
    border-top: 1px solid var(--line);
    padding-top: 8px;
  }
  .account {
    margin-top: auto;
  }
}
@media (max-width: 63.99rem) and (max-height: 30rem) {
  .place {
    min-height: 44px;
  }
}
</style>
