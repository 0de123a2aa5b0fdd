<script setup lang="ts">
import { sure } from "@/parts/sure";
/** One sample at a time: a huge code, pads in thumb reach, the next one slides in, undo one tap away. */
import { computed, defineAsyncComponent, ref } from "vue";
import { useRoute } from "vue-router";

import GroupPads from "./GroupPads.vue";
import RoundDone from "./RoundDone.vue";
import ScorePads from "./ScorePads.vue";
import { stepsOf, type Step } from "./steps";
import { saidOf, type Given, type How, type Outcome, type RoundAtWork, type RoundSample } from "./useRound";
import type { TimersAtWork } from "./useTimers";
import PhotoButton from "@/parts/PhotoButton.vue";
import SampleTag from "@/parts/SampleTag.vue";
import { reading } from "@/parts/amounts";
import { moment } from "@/parts/moments";
import { rest, tell } from "@/shell/arrival";
import { useKey } from "@/shell/shortcuts";
import { useCourse, usePhotos } from "@/shell/query";

const CannotDialog = defineAsyncComponent(() => import("./CannotDialog.vue"));
const RetestDialog = defineAsyncComponent(() => import("./RetestDialog.vue"));
const props = defineProps<{ id: string; work: RoundAtWork; timers: TimersAtWork }>();
const round = computed(() => sure(props.work.round.value));
const steps = computed(() => stepsOf(round.value.samples, round.value.outcomes));
const route = useRoute();
const isOpen = (step: Step) => step.outcomes.some((outcome) => !props.work.cellOf(step.sample, outcome));
/** The sample whose tag was scanned, else the first one that is open. */
const firstOpen = () => {
  const asked = steps.value.findIndex(
    (one) =>
      one.sample.id === route.query.at &&
      (isOpen(one) || one.outcomes.some((outcome) => outcome.key === route.query.again)),
  );
  if (asked >= 0) return asked;
  // Samples whose own look is still to come are for later.
  const due = steps.value.findIndex((one) => isOpen(one) && !one.sample.opens);
  const i = due >= 0 ? due : steps.value.findIndex(isOpen);
  return i < 0 ? steps.value.length : i;
};
const place = ref(firstOpen());
const step = computed(() => steps.value[place.value]);
/** The one outcome of the step; none where it is a group. */
const single = computed(() => (step.value?.outcomes.length === 1 ? step.value.outcomes[0] : undefined));
const cell = computed(() => step.value && single.value && props.work.cellOf(step.value.sample, single.value));
const { data: course } = useCourse(() => props.id);
const zone = computed(() => course.value?.zone ?? "UTC");
const { data: photos } = usePhotos(() => props.id);
/** The photo of each level of the outcome, by its value. */
const anchors = computed(
  () =>
    new Map(
      (photos.value?.photos ?? [])
        .filter((photo) => single.value && photo.outcome === single.value.key)
        .map((photo) => [sure(photo.level), photo.id]),
    ),
);
/** What was given at the look before, where the plan shows it. */
const before = computed(() => {
  const one =
    step.value &&
    single.value &&
    round.value.previous.find(
      (each) => each.sample === sure(step.value).sample.id && each.outcome === sure(single.value).key,
    );
  if (!one) return "";
  return `${one.look}: ${one.words || (one.value === null ? "" : reading(one.value, sure(single.value).scale))}`;
});
const sampleNumber = computed(() => (step.value ? round.value.samples.indexOf(step.value.sample) + 1 : 0));
const last = computed(() => props.work.undoable.value.at(-1));
const cannot = ref(false);
/** What is read again: from here, or as the log asked for. */
const again = ref<{ sample: RoundSample; outcome: Outcome } | null>(
  round.value.samples.flatMap((sample) =>
    round.value.outcomes
      .filter((outcome) => sample.id === route.query.at && outcome.key === route.query.again)
      .map((outcome) => ({ sample, outcome })),
  )[0] ?? null,
);
const back = ref(false);

const whereOf = (sample: RoundSample) =>
  sample.blind_repeat
    ? "brought to you"
    : sample.block
      ? `${sample.block}, place ${sample.place}`
      : `place ${sample.place}`;
/** Whoever gave a score by a key goes on at the next one's pads, where no field takes the focus itself. */
let byKey = false;
function arrived(shown: Element): void {
  if (byKey && document.activeElement === document.body)
    rest(shown.querySelector<HTMLElement>("[role=group]") ?? (shown as HTMLElement));
  byKey = false;
}
/** Go to a step, and tell what stands there now. */
function go(to: number, did = ""): void {
  back.value = to < place.value;
  byKey = Boolean(document.activeElement?.closest("[data-step]"));
  const before = step.value;
  place.value = Math.max(0, Math.min(steps.value.length, to));
  const now = step.value;
  if (!now) {
    if (did) tell(`${did}; that was the last one.`);
    return;
  }
  const asked = single.value?.name ?? sure(now.outcomes[0]).group;
  const here = [
    now.sample.code,
    ...(now.sample === before?.sample ? [] : [whereOf(now.sample)]),
    ...(round.value.outcomes.length > 1 ? [asked] : []),
  ].join(", ");
  tell(did ? `${did}; ${back.value ? "now" : "next"} ${here}` : here);
}
/** Whether the sample of this step may be scored now: beside its own window it is asked first. */
async function mayScore(): Promise<boolean> {
  const { sample } = sure(step.value);
  return !props.work.isOutside(sample) || props.work.ask(sample);
}
async function give(given: Given, how?: How): Promise<void> {
  if (props.work.isOutside(sure(step.value).sample) && !(await mayScore())) return;
  const kept = props.work.write(sure(step.value).sample, sure(single.value), saidOf(given, how));
  go(place.value + 1, "Kept");
  await kept;
}
/** An attribute of a group; the next sample comes once all of them are given. */
async function giveOne(outcome: Outcome, value: number): Promise<void> {
  const now = sure(step.value);
  if (props.work.isOutside(now.sample) && !(await mayScore())) return;
  const wasOpen = isOpen(now);
  const kept = props.work.write(now.sample, outcome, saidOf(value));
  if (wasOpen && !isOpen(now)) go(place.value + 1, "Kept");
  else tell(`${outcome.name} kept`);
  await kept;
}
async function giveUp(reason: string): Promise<void> {
  const { sample, outcomes } = sure(step.value);
  cannot.value = false;
  const left =
    outcomes.length === 1 ? outcomes : outcomes.filter((outcome) => !props.work.cellOf(sample, outcome));
  const kept = left.map((outcome) => props.work.write(sample, outcome, { kind: "cannot", reason }));
  go(place.value + 1, "Kept as not scored");
  await Promise.all(kept);
}
async function undo(): Promise<void> {
  const undone = await props.work.undo();
  if (undone)
    go(
      steps.value.findIndex(
        (s) => s.sample.id === undone.sample.id && s.outcomes.some((one) => one.key === undone.outcome.key),
      ),
      "Undone",
    );
}
useKey("u", "undo the last score", () => void undo());
useKey("x", "cannot be scored", () => (cannot.value = Boolean(step.value)));
useKey("ArrowLeft", "the one before", () => go(place.value - 1));
useKey("ArrowRight", "the next one", () => go(place.value + 1));
</script>

<template>
  <RoundDone v-if="!step" :id="id" :work="work" @back="go(steps.length - 1)" />
  <div
    v-else
    class="round mx-auto flex w-full max-w-xl grow flex-col overflow-x-clip px-4 pb-[max(1rem,env(safe-area-inset-bottom))] lying:max-w-none lying:pb-2"
  >
    <Transition :name="back ? 'from-left' : 'from-right'" mode="out-in" @enter="arrived">
      <div
        :key="`${step.sample.id}/${step.outcomes[0]!.key}`"
        class="flex grow flex-col lying:contents"
        data-step
      >
        <div class="what">
          <div class="relative">
            <SampleTag :code="step.sample.code" huge />
            <PhotoButton
              v-if="!step.sample.blind_repeat"
              class="absolute top-1/2 right-3 -translate-y-1/2"
              icon
              :trial="id"
              :shown="{ checkpoint: round.checkpoint, sample: step.sample.id }"
              :label="`Photo of ${step.sample.name || step.sample.code}`"
              :seen="work.paper.value ? work.momentOf(step.sample) : undefined"
            />
          </div>
          <p class="mt-2 flex justify-between gap-4">
            <span
              ><b>{{ single?.name ?? step.outcomes[0]!.group }}</b></span
            >
            <span class="text-soft">{{ whereOf(step.sample) }}</span>
          </p>
          <p v-if="step.sample.name" class="mt-1 text-[1.2rem] font-bold">{{ step.sample.name }}</p>
          <p v-if="step.sample.opens" class="mt-1 border-l-4 border-ink pl-3">
            It started later: its own look comes from {{ moment(step.sample.opens, zone) }} on. “Later” leaves
            it for then.
          </p>
          <button
            v-if="single && cell?.kind === 'value' && single.scale.kind !== 'note'"
            type="button"
            class="quiet -ml-2"
            @click="again = { sample: step.sample, outcome: single }"
          >
            Read it again{{ cell.again.length ? `, beside ${cell.again.join(", ")}` : "" }}
          </button>
          <p v-if="before" class="mt-1 text-soft">You gave, {{ before }}</p>
          <p v-if="cell?.kind === 'cannot'" class="mt-1 font-medium">Cannot be scored: {{ cell.reason }}</p>
          <button
            v-if="single?.wait"
            type="button"
            class="press mt-2 w-full"
            @click="timers.begin(step.sample.code, single.wait, single.wait_says)"
          >
            Wait {{ single.wait }} min{{ single.wait_says ? `, then ${single.wait_says}` : "" }}
          </button>
        </div>
        <div class="pads mt-2 flex grow flex-col">
          <ScorePads
            v-if="single"
            class="grow"
            :outcome="single"
            :value="cell?.kind === 'value' ? cell.value : null"
            :words="cell?.words ?? ''"
            :responses="cell?.responses ?? null"
            :trial="id"
            :anchors="anchors"
            @give="give"
          />
          <GroupPads
            v-else
            class="grow"
            :outcomes="step.outcomes"
            :cell-of="(outcome) => work.cellOf(step!.sample, outcome)"
            @give="giveOne"
          />
        </div>
      </div>
    </Transition>
    <div class="acts mt-3 grid grid-cols-[1fr_1fr] gap-2 sm:grid-cols-[auto_1fr_1fr_auto] lying:grid-cols-2">
      <button
        class="press order-3 px-2 sm:order-none lying:order-3"
        :disabled="place === 0"
        @click="go(place - 1)"
      >
        Before
      </button>
      <button class="press px-2" :disabled="!last" @click="undo">
        Undo{{ last ? ` ${last.sample.code}` : "" }}
      </button>
      <button class="press px-2" @click="cannot = true">Cannot score</button>
      <button class="press order-4 px-2 sm:order-none lying:order-4" @click="go(place + 1)">Later</button>
    </div>
    <p class="mt-2 text-center text-soft lying:hidden">
      {{ sampleNumber.toLocaleString("en") }} of {{ round.samples.length.toLocaleString("en") }}
    </p>
    <RetestDialog
      v-if="again"
      :work="work"
      :sample="again.sample"
      :outcome="again.outcome"
      @done="again = null"
      @close="again = null"
    />
    <CannotDialog v-if="cannot" :code="step.sample.code" @give-up="giveUp" @close="cannot = false" />
  </div>
</template>

<style scoped>
/* A phone that lies on its side: the sample at the left, all its pads at the right. */
@media (orientation: landscape) and (max-height: 500px) {
  .round {
    display: grid;
    grid-template-columns: minmax(13rem, 2fr) 3.4fr;
    grid-template-rows: auto 1fr;
    column-gap: 1rem;
  }
  .pads {
    grid-column: 2;
    grid-row: 1 / span 2;
    margin-top: 0;
  }
  .acts {
    grid-column: 1;
    align-self: end;
    margin-top: 0.5rem;
  }
}
.from-right-enter-active,
.from-left-enter-active {
  transition:
    transform 0.14s ease-out,
    opacity 0.14s;
}
.from-right-leave-active,
.from-left-leave-active {
  transition: opacity 0.05s;
}
.from-right-enter-from {
  transform: translateX(36px);
  opacity: 0;
}
.from-left-enter-from {
  transform: translateX(-36px);
  opacity: 0;
}
.from-right-leave-to,
.from-left-leave-to {
  opacity: 0;
}
</style>
