<script setup lang="ts">
import { sure } from "@/parts/sure";
/** Values worth a second look: left as they are, or read again; both stay, and the plan says what counts. */
import { ref } from "vue";

import ScorePads from "./ScorePads.vue";
import type { Given, How, RoundAtWork } from "./useRound";
import DialogSheet from "@/parts/DialogSheet.vue";
import SampleTag from "@/parts/SampleTag.vue";

const props = defineProps<{ work: RoundAtWork }>();
const { odd } = props.work;
const again = ref<(typeof odd.value)[number] | null>(null);
const RULES = {
  median: "the median of all readings counts",
  mean: "the mean of all readings counts",
  last: "the last reading counts",
};
async function give(given: Given, how?: How): Promise<void> {
  const { sample, outcome, id } = sure(again.value);
  again.value = null;
  await props.work.retest(sample, outcome, given, how);
  props.work.letStand(id);
}
</script>

<template>
  <ul v-if="odd.length" aria-label="Worth a second look">
    <li
      v-for="one in odd"
      :key="one.id"
      role="status"
      class="mt-2 flex flex-wrap items-center justify-between gap-x-4 gap-y-1 border-l-4 border-ink bg-sheet p-3"
    >
      <p class="min-w-0 grow basis-64">
        <b class="code">{{ one.sample.code }}</b>, {{ one.outcome.name }}: {{ one.says }} Look again?
      </p>
      <span class="flex gap-2"
        ><button
          type="button"
          class="press press-small press-main"
          :aria-label="`Read ${one.sample.code} again`"
          @click="again = one"
        >
          Read again</button
        ><button type="button" class="quiet" @click="work.letStand(one.id)">It is right</button></span
      >
    </li>
  </ul>
  <DialogSheet :open="!!again" title="Read it again" @close="again = null">
    <template v-if="again">
      <div class="mt-3"><SampleTag :code="again.sample.code" huge /></div>
      <p class="mt-2">
        {{ again.outcome.name }}, with the same instrument or another one. Both readings stay;
        {{ RULES[again.outcome.retest] }}.
      </p>
      <ScorePads class="mt-3" :outcome="again.outcome" :value="null" @give="give" />
      <button type="button" class="quiet mt-2" @click="again = null">Not now</button>
    </template>
  </DialogSheet>
</template>
