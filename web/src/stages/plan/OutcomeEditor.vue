<script setup lang="ts">
/** One outcome: its scale, which way is better, what difference matters, when it is looked at and judged. */
import { computed } from "vue";

import PlanText from "./PlanText.vue";
import ScaleEditor from "./ScaleEditor.vue";
import type { Outcome, Plan, PlanAtWork } from "./usePlan";
import NumberField from "@/parts/NumberField.vue";
import ProblemText from "@/parts/ProblemText.vue";

const outcome = defineModel<Outcome>({ required: true });
const props = defineProps<{ at: string; plan: Plan; work: PlanAtWork }>();
const says = (part: string) => props.work.says(`${props.at}.${part}`);
const unit = computed(() => {
  const { scale } = outcome.value;
  if (scale.kind === "measurement") return scale.unit;
  return scale.kind === "grade" ? "grades" : scale.kind === "passfail" ? "of 1" : scale.what;
});
const kind = computed({
  get: () => outcome.value.scale.kind,
  set: (kind) => {
    const scales = {
      grade: { kind: "grade" as const, levels: [0, 1, 2, 3, 4, 5].map((value) => ({ value, label: String(value), anchor: "" })) },
      measurement: { kind: "measurement" as const, unit: "", resolution: null, low: null, high: null },
      count: { kind: "count" as const, of: null, what: "" },
      passfail: { kind: "passfail" as const, pass_word: "passed", fail_word: "failed" },
    };
    outcome.value.scale = scales[kind];
    outcome.value.margin = kind === "grade" ? 1 : null;
    outcome.value.expected = outcome.value.spread = null;
  },
});
const everywhere = computed(() => outcome.value.checkpoints.length === 0);
const looked = computed(() => props.plan.checkpoints.filter((c) => everywhere.value || outcome.value.checkpoints.includes(c.key)));
function toggle(key: string): void {
  const all = props.plan.checkpoints.map((c) => c.key);
  const now = everywhere.value ? all : outcome.value.checkpoints;
  const next = now.includes(key) ? now.filter((one) => one !== key) : all.filter((one) => now.includes(one) || one === key);
  if (next.length) outcome.value.checkpoints = next.length === all.length ? [] : next;
}
</script>

<template>
  <div class="rule mx-3 grid gap-4 py-4">
    <div class="grid gap-3 sm:grid-cols-[1fr_13rem]">
      <div>
        <span class="mb-1 block text-[0.9rem] text-soft">Name</span>
        <PlanText v-model="outcome.name" :at="`${at}.name`" label="Name of the outcome" placeholder="Freshness" :work="work" />
      </div>
      <label class="block">
        <span class="mb-1 block text-[0.9rem] text-soft">Scale</span>
        <select v-model="kind" class="field">
          <option value="grade">grade, in levels</option>
          <option value="measurement">measurement</option>
          <option value="count">count</option>
          <option value="passfail">pass or fail</option>
        </select>
      </label>
    </div>
    <ScaleEditor v-model="outcome.scale" :at="`${at}.scale`" :work="work" />
    <div class="grid gap-3 sm:grid-cols-2">
      <label class="block">
        <span class="mb-1 block text-[0.9rem] text-soft">Better is</span>
        <select v-model="outcome.better" class="field">
          <option value="more">more</option>
          <option value="less">less</option>
          <option value="target">nearest a target</option>
        </select>
      </label>
      <NumberField v-if="outcome.better === 'target'" v-model="outcome.target" label="Target" :unit="unit" :says="says('target')" />
      <NumberField v-model="outcome.margin" label="Smallest difference that matters" :unit="unit" :says="says('margin')" />
      <NumberField v-model="outcome.expected" label="Lead you hope for in the best" :unit="unit" placeholder="assumed" :says="says('expected')" />
      <NumberField v-if="kind !== 'passfail'" v-model="outcome.spread" label="Spread between samples treated alike" :unit="unit" placeholder="assumed" :says="says('spread')" />
    </div>
    <label class="flex items-center gap-3"><input v-model="outcome.primary" type="checkbox" class="h-6 w-6 flex-none accent-ink" /> Primary: the claim rests on it. All else supports.</label>
    <fieldset v-if="plan.checkpoints.length > 1">
      <legend class="mb-1 text-[0.9rem] text-soft">Looked at on</legend>
      <div class="flex flex-wrap gap-x-5">
        <label v-for="one in plan.checkpoints" :key="one.key" class="flex min-h-11 items-center gap-2">
          <input type="checkbox" class="h-5 w-5 accent-ink" :checked="everywhere || outcome.checkpoints.includes(one.key)" @change="toggle(one.key)" /> {{ one.name }}
        </label>
      </div>
    </fieldset>
    <div class="grid gap-3 sm:grid-cols-2">
      <label class="block">
        <span class="mb-1 block text-[0.9rem] text-soft">Judged by</span>
        <select v-model="outcome.summary.kind" class="field">
          <option value="value">its value</option>
          <option value="change">its change from an earlier look</option>
        </select>
      </label>
      <label class="block">
        <span class="mb-1 block text-[0.9rem] text-soft">at</span>
        <select v-model="outcome.summary.checkpoint" class="field">
          <option :value="null">the last look</option>
          <option v-for="one in looked" :key="one.key" :value="one.key">{{ one.name }}</option>
        </select>
      </label>
      <label v-if="outcome.summary.kind === 'change'" class="block sm:col-start-2">
        <span class="mb-1 block text-[0.9rem] text-soft">compared with</span>
        <select v-model="outcome.summary.baseline" class="field">
          <option :value="null">the first look</option>
          <option v-for="one in looked" :key="one.key" :value="one.key">{{ one.name }}</option>
        </select>
      </label>
    </div>
    <ProblemText :says="says('summary.kind') ?? says('summary.checkpoint') ?? says('summary.baseline') ?? says('checkpoints')" />
  </div>
</template>
