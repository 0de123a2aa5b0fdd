<script setup lang="ts">
/** A reading is taken again, by the same instrument or another: both stay, and the plan says what counts. */
import ScorePads from "./ScorePads.vue";
import type { Given, How, Outcome, RoundAtWork, RoundSample } from "./useRound";
import DialogSheet from "@/parts/DialogSheet.vue";
import SampleTag from "@/parts/SampleTag.vue";

const props = defineProps<{ work: RoundAtWork; sample: RoundSample; outcome: Outcome; reason?: string }>();
const emit = defineEmits<{ done: []; close: [] }>();
const RULES = {
  median: "the median of all readings counts",
  mean: "the mean of all readings counts",
  last: "the last reading counts",
};
async function give(given: Given, how?: How): Promise<void> {
  emit("done");
  await props.work.retest(props.sample, props.outcome, given, {
    ...how,
    reason: how?.reason ?? props.reason,
  });
}
</script>

<template>
  <DialogSheet :open="true" title="Read it again" @close="emit('close')">
    <div class="mt-3"><SampleTag :code="sample.code" huge /></div>
    <p class="mt-2">
      {{ outcome.name }}, with the same instrument or another one. Both readings stay;
      {{ RULES[outcome.retest] }}.
    </p>
    <ScorePads class="mt-3" :outcome="outcome" :value="null" @give="give" />
    <button type="button" class="quiet mt-2" @click="emit('close')">Not now</button>
  </DialogSheet>
</template>
