<script setup lang="ts">
/** One outcome: its scale, which way is better, what difference matters, when it is judged, what its method
 * can see.
 */
import { computed } from "vue";

import PlanText from "./PlanText.vue";
import ProofEditor from "./ProofEditor.vue";
import { pastedLines, type Line } from "./lists";
import ScaleEditor from "./ScaleEditor.vue";
import SomePicker from "./SomePicker.vue";
import { SCALES, SCALE_NAMES, type Outcome, type Scale } from "./fresh";
import type { Plan, PlanAtWork } from "./usePlan";
import NumberField from "@/parts/NumberField.vue";
import ProblemText from "@/parts/ProblemText.vue";
import { differenceUnit, isShare } from "@/parts/amounts";

const outcome = defineModel<Outcome>({ required: true });
const props = defineProps<{ at: string; plan: Plan; work: PlanAtWork }>();
const emit = defineEmits<{ lines: [lines: Line[]] }>();
function pasted(event: ClipboardEvent): void {
  const lines = pastedLines(event);
  if (lines) emit("lines", lines);
}
const says = (part: string) => props.work.says(`${props.at}.${part}`);
const unit = computed(() => {
  const told = differenceUnit(outcome.value.scale);
  return told === "share" ? "of 1" : told;
});
const kind = computed<Scale["kind"]>({
  get: () => outcome.value.scale.kind,
  set: (kind) => {
    const graded = kind === "grade" || kind === "shade";
    Object.assign(outcome.value, {
      scale: SCALES[kind](),
      margin: graded ? 1 : null,
      margin_unit: kind === "grade" ? "grades" : kind === "shade" ? "steps" : "",
      expected: null,
      spread: null,
      between: null,
      target: null,
      proof: { blanks: [], known: null, known_readings: [], repeats: [] },
    });
    if (kind === "note") Object.assign(outcome.value, { primary: false, better: "none" });
  },
});
function matters(margin: number | null): void {
  Object.assign(outcome.value, {
    margin,
    margin_unit: margin === null ? "" : differenceUnit(outcome.value.scale),
  });
}
/** So many to one failure. */
const RARE = [10, 20, 50, 100, 200, 500, 1_000];
/** The far end of the scale, where it has one. */
function doneAtFirst(): NonNullable<Outcome["done"]> {
  const scale = outcome.value.scale;
  if (scale.kind === "grade" && scale.levels.length)
    return outcome.value.better === "more"
      ? { at: Math.min(...scale.levels.map((one) => one.value)), side: "or less" }
      : { at: Math.max(...scale.levels.map((one) => one.value)), side: "or more" };
  if (scale.kind === "passfail") return { at: 0, side: "or less" };
  return { at: scale.kind === "shade" ? scale.steps.length : 1, side: "or more" };
}
const looked = computed(() =>
  props.plan.checkpoints.filter(
    (c) => !outcome.value.checkpoints.length || outcome.value.checkpoints.includes(c.key),
  ),
);
const called = (one: Plan["checkpoints"][number]) => (one.stage ? `${one.name}, ${one.stage}` : one.name);
</script>

<template>
  <div class="rule mx-3 grid gap-4 py-4">
    <div class="grid gap-3 sm:grid-cols-[1fr_13rem]">
      <PlanText
        v-model="outcome.name"
        :at="`${at}.name`"
        :label="plan.agreement ? 'Name of the instrument' : 'Name of the outcome'"
        :placeholder="plan.agreement ? 'Meter, strip, kit …' : 'Freshness, or paste a list'"
        :work="work"
        shown
        @paste="pasted"
      />
      <label class="block">
        <span class="mb-1 block text-[0.9rem] text-soft">Scale</span>
        <select v-model="kind" class="field">
          <option v-for="(name, one) in SCALE_NAMES" :key="one" :value="one">{{ name }}</option>
        </select>
      </label>
    </div>
    <ScaleEditor v-model="outcome.scale" :at="`${at}.scale`" :work="work" />
    <template v-if="kind !== 'note'">
      <div v-if="!plan.agreement" class="grid gap-3 sm:grid-cols-2">
        <div>
          <label class="block">
            <span class="mb-1 block text-[0.9rem] text-soft">Better is</span>
            <select v-model="outcome.better" class="field">
              <option value="more">more</option>
              <option value="less">less</option>
              <option value="target">nearest a target</option>
              <option value="none">neither: only told</option>
            </select>
          </label>
          <ProblemText :says="says('better')" />
        </div>
        <NumberField
          v-if="outcome.better === 'target'"
          v-model="outcome.target"
          label="Target"
          :unit="unit"
          :says="says('target')"
        />
        <NumberField
          :model-value="outcome.margin"
          label="Smallest difference that matters"
          :unit="unit"
          :says="says('margin')"
          @update:model-value="matters"
        />
        <NumberField
          v-model="outcome.expected"
          label="Lead you hope for in the best"
          :unit="unit"
          placeholder="assumed"
          :says="says('expected')"
        />
        <NumberField
          v-if="!isShare(outcome.scale)"
          v-model="outcome.spread"
          label="Spread between those treated alike"
          :unit="unit"
          placeholder="assumed"
          :says="says('spread')"
        />
        <NumberField
          v-if="!isShare(outcome.scale)"
          v-model="outcome.between"
          label="Spread between places"
          :unit="unit"
          placeholder="if they stand apart"
          :says="says('between')"
        />
        <NumberField
          :model-value="outcome.weight"
          label="Weight in the tally"
          :says="says('weight')"
          @update:model-value="(n) => n !== null && (outcome.weight = n)"
        />
        <PlanText
          v-model="outcome.group"
          :at="`${at}.group`"
          label="Looked at together with"
          :work="work"
          shown
          placeholder="the group’s name, if any"
        />
      </div>
      <div>
        <label v-if="!plan.agreement" class="flex min-h-11 items-center gap-3"
          ><input v-model="outcome.primary" type="checkbox" class="h-6 w-6 flex-none accent-ink" /> Primary:
          the claim rests on it. All else supports.</label
        >
        <ProblemText :says="says('primary')" />
        <label
          v-if="
            ['grade', 'passfail', 'shade', 'percent', 'count'].includes(outcome.scale.kind) ||
            outcome.practised
          "
          class="flex min-h-11 items-center gap-3"
          ><input v-model="outcome.practised" type="checkbox" class="h-6 w-6 flex-none accent-ink" /> Scored
          only by those who have shown in practice that they are ready.</label
        >
        <ProblemText :says="says('practised')" />
      </div>
      <div v-if="!plan.agreement" class="grid gap-3 sm:grid-cols-2">
        <label class="block">
          <span class="mb-1 block text-[0.9rem] text-soft">Judged by</span>
          <select v-if="outcome.scale.kind !== 'event'" v-model="outcome.summary.kind" class="field">
            <option value="value">its value</option>
            <option value="change">its change from an earlier look</option>
            <option value="percent">its change in percent</option>
            <option value="area">its mean over time</option>
            <option value="slope">its slope over time</option>
            <option value="threshold">the time until it crosses a value</option>
          </select>
          <span v-else class="block py-2">the time without it</span>
        </label>
        <label class="block">
          <span class="mb-1 block text-[0.9rem] text-soft">{{
            ["area", "slope", "threshold"].includes(outcome.summary.kind) || outcome.scale.kind === "event"
              ? "up to"
              : "at"
          }}</span>
          <select v-model="outcome.summary.checkpoint" class="field">
            <option :value="null">the last look</option>
            <option v-for="one in looked" :key="one.key" :value="one.key">{{ called(one) }}</option>
          </select>
        </label>
        <NumberField
          v-if="outcome.summary.kind === 'threshold'"
          v-model="outcome.summary.threshold"
          class="sm:col-start-2"
          label="The value to be crossed"
          :unit="unit"
          :says="says('summary.threshold')"
        />
        <label v-if="['change', 'percent'].includes(outcome.summary.kind)" class="block sm:col-start-2">
          <span class="mb-1 block text-[0.9rem] text-soft">compared with</span>
          <select v-model="outcome.summary.baseline" class="field">
            <option :value="null">the first look</option>
            <option v-for="one in looked" :key="one.key" :value="one.key">{{ called(one) }}</option>
          </select>
        </label>
      </div>
      <div class="grid gap-3 sm:grid-cols-2">
        <label class="block">
          <span class="mb-1 block text-[0.9rem] text-soft"
            >Read more than once at a look, what counts is</span
          >
          <select v-model="outcome.retest" class="field">
            <option value="median">the median</option>
            <option value="mean">the mean</option>
            <option value="last">the last</option>
          </select>
        </label>
        <div class="grid grid-cols-[7rem_minmax(0,1fr)] gap-2">
          <NumberField v-model="outcome.wait" label="Wait before it" unit="min" :says="says('wait')" />
          <PlanText
            v-model="outcome.wait_says"
            :at="`${at}.wait_says`"
            label="and then"
            :work="work"
            shown
            placeholder="tilt, then look"
          />
        </div>
      </div>
      <ProblemText
        :says="
          says('summary.kind') ??
          says('summary.checkpoint') ??
          says('summary.baseline') ??
          says('checkpoints')
        "
      />
      <label
        v-if="['passfail', 'event'].includes(outcome.scale.kind) && !plan.agreement"
        class="block max-w-96"
      >
        <span class="mb-1 block text-[0.9rem] text-soft">A failure that is looked for is as rare as</span>
        <select v-model="outcome.rare" class="field">
          <option :value="null">not rare</option>
          <option v-for="n in RARE" :key="n" :value="1 / n">1 in {{ n.toLocaleString("en-GB") }}</option>
          <option
            v-if="outcome.rare !== null && !RARE.some((n) => 1 / n === outcome.rare)"
            :value="outcome.rare"
          >
            {{ 100 * outcome.rare }} in 100
          </option>
        </select>
      </label>
      <ProblemText :says="says('rare')" />
      <SomePicker
        v-model="outcome.only"
        :at="`${at}.only`"
        :what="outcome.name || 'This outcome'"
        :plan="plan"
        :work="work"
      />
      <div v-if="!plan.agreement">
        <label class="flex min-h-11 items-center gap-3"
          ><input
            type="checkbox"
            class="h-6 w-6 flex-none accent-ink"
            :checked="outcome.done !== null"
            @change="outcome.done = outcome.done ? null : doneAtFirst()"
          />
          A {{ work.sample.value.one }} is done once it reads so much, and is looked at no more</label
        >
        <div v-if="outcome.done" class="ml-9 grid max-w-96 grid-cols-2 gap-2">
          <NumberField
            :model-value="outcome.done.at"
            label="Done at"
            :unit="unit"
            needed
            @update:model-value="(n) => n !== null && outcome.done && (outcome.done.at = n)"
          />
          <label class="block">
            <span class="mb-1 block text-[0.9rem] text-soft">or beyond it</span>
            <select v-model="outcome.done.side" class="field">
              <option value="or more">or more</option>
              <option value="or less">or less</option>
            </select>
          </label>
        </div>
        <ProblemText :says="says('done')" />
      </div>
      <ProofEditor
        v-if="!isShare(outcome.scale)"
        v-model="outcome.proof"
        :at="`${at}.proof`"
        :unit="unit"
        :finding="work.judged.value?.methods.find((one) => one.outcome === outcome.key)"
        :work="work"
      />
    </template>
  </div>
</template>
