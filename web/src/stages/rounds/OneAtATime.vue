<script setup lang="ts">
/** One sample at a time: a huge code, pads in thumb reach, the next one slides in, undo one tap away. */
import { computed, ref } from "vue";
import { useRoute } from "vue-router";

import CannotDialog from "./CannotDialog.vue";
import RoundDone from "./RoundDone.vue";
import ScorePads from "./ScorePads.vue";
import { saidOf, type Given, type How, type RoundAtWork } from "./useRound";
import type { TimersAtWork } from "./useTimers";
import SampleTag from "@/parts/SampleTag.vue";
import { useKey } from "@/shell/shortcuts";

const props = defineProps<{ id: string; work: RoundAtWork; timers: TimersAtWork }>();
const round = computed(() => props.work.round.value!);
const steps = computed(() => round.value.samples.flatMap((sample) => round.value.outcomes.map((outcome) => ({ sample, outcome }))));
const route = useRoute();
/** The sample whose tag was scanned, else the first one that is open. */
const firstOpen = () => {
  const asked = steps.value.findIndex(({ sample, outcome }) => sample.id === route.query.at && !props.work.cellOf(sample, outcome));
  if (asked >= 0) return asked;
  const i = steps.value.findIndex(({ sample, outcome }) => !props.work.cellOf(sample, outcome));
  return i < 0 ? steps.value.length : i;
};
const place = ref(firstOpen());
const step = computed(() => steps.value[place.value]);
const cell = computed(() => step.value && props.work.cellOf(step.value.sample, step.value.outcome));
const sampleNumber = computed(() => (step.value ? round.value.samples.indexOf(step.value.sample) + 1 : 0));
const last = computed(() => props.work.undoable.value.at(-1));
const cannot = ref(false);
const back = ref(false);

function go(to: number): void {
  back.value = to < place.value;
  place.value = Math.max(0, Math.min(steps.value.length, to));
}
async function give(given: Given, how?: How): Promise<void> {
  const { sample, outcome } = step.value!;
  const kept = props.work.write(sample, outcome, saidOf(given, how));
  go(place.value + 1);
  await kept;
}
async function giveUp(reason: string): Promise<void> {
  const { sample, outcome } = step.value!;
  cannot.value = false;
  const kept = props.work.write(sample, outcome, { kind: "cannot", reason });
  go(place.value + 1);
  await kept;
}
async function undo(): Promise<void> {
  const undone = await props.work.undo();
  if (undone) go(steps.value.findIndex((s) => s.sample.id === undone.sample.id && s.outcome.key === undone.outcome.key));
}
useKey("u", "undo the last score", () => void undo());
useKey("x", "cannot be scored", () => (cannot.value = Boolean(step.value)));
useKey("ArrowLeft", "the one before", () => go(place.value - 1));
useKey("ArrowRight", "the next one", () => go(place.value + 1));
</script>

<template>
  <RoundDone v-if="!step" :id="id" :work="work" @back="go(steps.length - 1)" />
  <div v-else class="mx-auto flex w-full max-w-xl grow flex-col px-4 pb-[max(1rem,env(safe-area-inset-bottom))]">
    <Transition :name="back ? 'from-left' : 'from-right'" mode="out-in">
      <div :key="`${step.sample.id}/${step.outcome.key}`" class="flex grow flex-col">
        <SampleTag :code="step.sample.code" huge />
        <p class="mt-2 flex justify-between gap-4">
          <span><b>{{ step.outcome.name }}</b></span>
          <span class="text-soft">{{ step.sample.block ? `${step.sample.block}, place ${step.sample.place}` : `place ${step.sample.place}` }}</span>
        </p>
        <p v-if="cell?.kind === 'cannot'" class="mt-1 font-medium">Cannot be scored: {{ cell.reason }}</p>
        <button v-if="step.outcome.wait" type="button" class="press mt-2" @click="timers.begin(step.sample.code, step.outcome.wait, step.outcome.wait_says)">Wait {{ step.outcome.wait }} min{{ step.outcome.wait_says ? `, then ${step.outcome.wait_says}` : "" }}</button>
        <ScorePads class="mt-2 grow" :outcome="step.outcome" :value="cell?.kind === 'value' ? cell.value : null" :words="cell?.words ?? ''" :responses="cell?.responses ?? null" :trial="id" @give="give" />
      </div>
    </Transition>
    <div class="mt-3 grid grid-cols-[1fr_1fr] gap-2 sm:grid-cols-[auto_1fr_1fr_auto]">
      <button class="press order-3 px-2 sm:order-none" :disabled="place === 0" @click="go(place - 1)">Before</button>
      <button class="press px-2" :disabled="!last" @click="undo">Undo{{ last ? ` ${last.sample.code}` : "" }}</button>
      <button class="press px-2" @click="cannot = true">Cannot score</button>
      <button class="press order-4 px-2 sm:order-none" @click="go(place + 1)">Later</button>
    </div>
    <p class="mt-2 text-center text-soft">{{ sampleNumber }} of {{ round.samples.length }}</p>
    <CannotDialog v-if="cannot" :code="step.sample.code" @give-up="giveUp" @close="cannot = false" />
  </div>
</template>

<style scoped>
.from-right-enter-active, .from-left-enter-active { transition: transform 0.14s ease-out, opacity 0.14s; }
.from-right-leave-active, .from-left-leave-active { transition: opacity 0.05s; }
.from-right-enter-from { transform: translateX(36px); opacity: 0; }
.from-left-enter-from { transform: translateX(-36px); opacity: 0; }
.from-right-leave-to, .from-left-leave-to { opacity: 0; }
</style>
