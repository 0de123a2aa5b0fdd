<script setup lang="ts">
import { sure } from "@/parts/sure";
/** A calendar address of one's own, and letters when a look is due. */
import { onMounted, ref } from "vue";

import ProblemText from "@/parts/ProblemText.vue";
import { answer, api, type Schemas } from "@/shell/api/client";
import { useAct } from "@/shell/act";

const feed = ref<Schemas["FeedOut"]>();
const copied = ref(false);
const { busy, other, through } = useAct([]);
onMounted(() =>
  through(async () => {
    feed.value = await answer(api.GET("/api/feed"));
  }),
);
const change = (letters: boolean, renew = false) =>
  through(async () => {
    feed.value = await answer(api.PUT("/api/feed", { body: { letters, renew } }));
    copied.value = false;
  });
async function copy(): Promise<void> {
  await navigator.clipboard.writeText(sure(feed.value).address);
  copied.value = true;
}
</script>

<template>
  <section aria-label="Reminders">
    <h2 class="border-b-2 border-ink pb-1">Be reminded</h2>
    <div v-if="feed" class="mt-2 grid gap-2">
      <label class="flex min-h-11 items-center gap-3"
        ><input
          type="checkbox"
          class="h-6 w-6 flex-none"
          :checked="feed.letters"
          :disabled="busy"
          @change="change(($event.target as HTMLInputElement).checked)"
        />
        A letter when a look is due</label
      >
      <p>
        In your own calendar: subscribe to this address. It names no treatment; whoever has it can read when
        you look at what.
      </p>
      <p class="flex flex-wrap items-center gap-2">
        <code class="code min-w-0 grow basis-72 bg-sheet p-2 font-normal break-all">{{
          feed.address
        }}</code><button type="button" class="press press-small" @click="copy">
          {{ copied ? "Copied" : "Copy it" }}</button
        ><button type="button" class="quiet" :disabled="busy" @click="change(feed.letters, true)">
          Make a new one
        </button>
      </p>
    </div>
    <ProblemText :says="other" />
  </section>
</template>
