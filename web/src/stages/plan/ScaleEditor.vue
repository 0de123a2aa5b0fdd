<script setup lang="ts">
/** A scale: its levels, steps, unit or words. */
import { computed } from "vue";

import GradeEditor from "./GradeEditor.vue";
import PlanText from "./PlanText.vue";
import ShadeEditor from "./ShadeEditor.vue";
import type { Scale } from "./fresh";
import type { PlanAtWork } from "./usePlan";
import ChoiceRow from "@/parts/ChoiceRow.vue";
import NumberField from "@/parts/NumberField.vue";
import NumbersField from "@/parts/NumbersField.vue";
import { honest } from "@/parts/amounts";

const scale = defineModel<Scale>({ required: true });
const props = defineProps<{ at: string; work: PlanAtWork }>();
const says = (part: string) => props.work.says(`${props.at}.${part}`);
const top = computed(() =>
  "steps" in scale.value && typeof scale.value.steps.at(-1) === "number"
    ? honest(scale.value.steps.at(-1) as number, 6)
    : "…",
);
</script>

<template>
  <GradeEditor v-if="scale.kind === 'grade'" v-model="scale" :at="at" :work="work" />
  <ShadeEditor v-else-if="scale.kind === 'shade'" v-model="scale" :at="at" :work="work" />
  <div v-else-if="scale.kind === 'measurement'" class="grid grid-cols-2 gap-3 sm:grid-cols-4">
    <PlanText v-model="scale.unit" :at="`${at}.unit`" label="Unit" placeholder="mL" :work="work" shown />
    <NumberField
      v-model="scale.resolution"
      label="Finest step"
      :unit="scale.unit"
      :says="says('resolution')"
    />
    <NumberField v-model="scale.low" label="Lowest plausible" :unit="scale.unit" :says="says('low')" />
    <NumberField v-model="scale.high" label="Highest plausible" :unit="scale.unit" :says="says('high')" />
  </div>
  <div v-else-if="scale.kind === 'count'" class="grid grid-cols-2 gap-3">
    <PlanText
      v-model="scale.what"
      :at="`${at}.what`"
      label="What is counted"
      placeholder="seeds"
      :work="work"
      shown
    />
    <NumberField v-model="scale.of" label="Out of (empty: open)" whole :says="says('of')" />
  </div>
  <div v-else-if="scale.kind === 'percent'" class="grid grid-cols-2 gap-3">
    <PlanText
      v-model="scale.what"
      :at="`${at}.what`"
      label="Share of what"
      placeholder="browned"
      :work="work"
      shown
    />
    <NumberField v-model="scale.resolution" label="Told in steps of" unit="%" :says="says('resolution')" />
  </div>
  <div v-else-if="scale.kind === 'event'">
    <PlanText
      v-model="scale.what"
      :at="`${at}.what`"
      label="What has to be seen for it to count"
      placeholder="the first petal on the table"
      :work="work"
      shown
    />
    <p class="mt-1 text-[0.92rem] text-soft">
      At each look: seen, or not yet. It happened between two looks; one on which it never came has lasted to
      the end.
    </p>
  </div>
  <div v-else-if="scale.kind === 'ladder'" class="grid gap-3 sm:grid-cols-[1fr_6rem_8rem]">
    <NumbersField
      v-model="scale.steps"
      label="Steps of the load, rising"
      placeholder="5, 10, 15, 20, 25"
      :says="says('steps')"
    />
    <PlanText v-model="scale.unit" :at="`${at}.unit`" label="Unit" placeholder="kg" :work="work" shown />
    <NumberField
      :model-value="scale.repeats"
      label="times at each"
      whole
      needed
      :says="says('repeats')"
      @update:model-value="(n) => n !== null && scale.kind === 'ladder' && (scale.repeats = n)"
    />
    <p class="text-[0.92rem] text-soft sm:col-span-3">
      What counts is the highest step held. One that holds {{ top }} {{ scale.unit }} would have held more;
      nobody knows how much.
    </p>
  </div>
  <div v-else-if="scale.kind === 'curve'" class="grid gap-3 sm:grid-cols-[1fr_6rem_6rem]">
    <NumbersField
      v-model="scale.steps"
      label="Steps of load, dose or time"
      placeholder="1, 2, 3, 4"
      :says="says('steps')"
    />
    <PlanText
      v-model="scale.step_unit"
      :at="`${at}.step_unit`"
      label="Their unit"
      placeholder="kg"
      :work="work"
      shown
    />
    <PlanText v-model="scale.unit" :at="`${at}.unit`" label="Read in" placeholder="mm" :work="work" shown />
    <ChoiceRow
      v-model="scale.number"
      class="sm:col-span-3"
      legend="Compared by"
      :choices="[
        { value: 'slope', name: 'its slope', says: `${scale.unit} per ${scale.step_unit}` },
        { value: 'last', name: 'its last step', says: `${scale.unit} at ${top} ${scale.step_unit}` },
      ]"
    />
    <label v-if="scale.number === 'slope'" class="flex min-h-11 items-center gap-3 sm:col-span-3"
      ><input v-model="scale.through_zero" type="checkbox" class="h-6 w-6" /> At
      {{ `0 ${scale.step_unit}` }} it reads 0 by nature: the straight line goes through there</label
    >
  </div>
  <div v-else-if="scale.kind === 'note'">
    <PlanText
      v-model="scale.prompt"
      :at="`${at}.prompt`"
      label="What is asked"
      placeholder="What do you notice first?"
      :work="work"
      shown
    />
    <p class="mt-1 text-[0.92rem] text-soft">Words are kept and shown; they are not compared.</p>
  </div>
  <div v-else class="grid grid-cols-2 gap-3">
    <PlanText v-model="scale.pass_word" :at="`${at}.pass_word`" label="Passed is called" :work="work" shown />
    <PlanText v-model="scale.fail_word" :at="`${at}.fail_word`" label="Failed is called" :work="work" shown />
  </div>
</template>
