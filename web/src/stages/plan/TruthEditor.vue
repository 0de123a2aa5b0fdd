<script setup lang="ts">
import { sure } from "@/parts/sure";
/** What is imagined to be true of one outcome: each treatment's true mean, and the spread between those
 * treated alike.
 */
import { computed } from "vue";

import type { Plan } from "./usePlan";
import NumberField from "@/parts/NumberField.vue";
import { differenceUnit, isShare, unitOf } from "@/parts/amounts";
import type { Schemas } from "@/shell/api/client";

const one = defineModel<Schemas["Imagined"]>({ required: true });
const props = defineProps<{
  at: string;
  plan: Plan;
  letters: Map<string, string>;
  says: (at: string) => string | undefined;
}>();
const outcome = computed(() => sure(props.plan.outcomes.find((found) => found.key === one.value.outcome)));
const unit = computed(() =>
  isShare(outcome.value.scale) ? "of 1" : unitOf(outcome.value.scale) || differenceUnit(outcome.value.scale),
);
function alike(): void {
  const means = Object.values(one.value.means);
  const middle = Math.round((1e6 * means.reduce((sum, mean) => sum + mean, 0)) / means.length) / 1e6;
  one.value.means = Object.fromEntries(Object.keys(one.value.means).map((key) => [key, middle]));
}
</script>

<template>
  <fieldset class="mt-2 min-w-0">
    <legend class="mb-1">
      <b>{{ outcome.name }}</b> is truly, on average
    </legend>
    <div class="grid gap-x-4 gap-y-2 sm:grid-cols-2">
      <div
        v-for="treatment in plan.treatments"
        :key="treatment.key"
        class="grid grid-cols-[1.8rem_minmax(0,1fr)_7.5rem] items-center gap-2"
      >
        <span class="code">{{ letters.get(treatment.key) }}</span><span
          class="text-[0.95rem] leading-tight"
          >{{ treatment.name }}</span
        >
        <NumberField
          :model-value="one.means[treatment.key] ?? null"
          :label="`True ${outcome.name} of ${treatment.name}`"
          hide-label
          needed
          :unit="unit"
          :says="says(`${at}.means.${treatment.key}`)"
          @update:model-value="(mean) => mean !== null && (one.means[treatment.key] = mean)"
        />
      </div>
      <div
        v-if="!isShare(outcome.scale)"
        class="grid grid-cols-[1.8rem_minmax(0,1fr)_7.5rem] items-center gap-2"
      >
        <span class="code">±</span
        ><span class="text-[0.95rem] leading-tight">between those treated alike</span>
        <NumberField
          :model-value="one.spread"
          label="Spread between those treated alike"
          hide-label
          needed
          :unit="unit"
          :says="says(`${at}.spread`)"
          @update:model-value="(spread) => spread !== null && (one.spread = spread)"
        />
      </div>
    </div>
    <button type="button" class="quiet -ml-2" @click="alike">Suppose they are all alike</button>
  </fieldset>
</template>
