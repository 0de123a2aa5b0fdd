<script setup lang="ts">
/** Groups of treatments: what could hurt somebody with any of them, what they are cleaned off with, and who
 * belongs to them.
 */
import { group } from "./fresh";
import PlanText from "./PlanText.vue";
import type { Plan, PlanAtWork } from "./usePlan";
import PickMany from "@/parts/PickMany.vue";
import TakeOut from "@/parts/TakeOut.vue";

const plan = defineModel<Plan>({ required: true });
defineProps<{ work: PlanAtWork }>();
const members = (key: string) =>
  plan.value.treatments.filter((one) => one.group === key).map((one) => one.key);
function fill(key: string, keys: string[]): void {
  for (const one of plan.value.treatments)
    if (keys.includes(one.key)) one.group = key;
    else if (one.group === key) one.group = "";
}
function out(place: number): void {
  const [gone] = plan.value.groups.splice(place, 1);
  if (!gone) return;
  fill(gone.key, []);
  // Nothing is left that is kept to a group that is gone.
  for (const one of [...plan.value.outcomes, ...plan.value.checkpoints])
    one.only.groups = one.only.groups.filter((key) => key !== gone.key);
}
/** Its own, and those that are in no group yet. */
const free = (key: string) =>
  plan.value.treatments
    .map((one, i) => ({ key: one.key, name: one.name.trim() || `Treatment ${i + 1}`, group: one.group }))
    .filter((one) => !one.group || one.group === key);
</script>

<template>
  <ul class="grid gap-5">
    <li v-for="(one, i) in plan.groups" :key="one.key" class="grid gap-2">
      <div class="grid grid-cols-[minmax(0,1fr)_44px] items-start gap-2">
        <PlanText
          v-model="one.name"
          :at="`groups.${i}.name`"
          :label="`Name of group ${i + 1}`"
          placeholder="Sauces"
          :work="work"
        />
        <TakeOut :what="one.name || `group ${i + 1}`" @out="out(i)" />
      </div>
      <PickMany
        :model-value="members(one.key)"
        :label="`Treatments of ${one.name || `group ${i + 1}`}`"
        :options="free(one.key)"
        @update:model-value="(keys) => fill(one.key, keys)"
      />
      <div class="grid gap-3 sm:grid-cols-2">
        <PlanText
          v-model="one.hazards"
          :at="`groups.${i}.hazards`"
          label="What could hurt someone"
          :work="work"
          shown
          placeholder="corrosive: gloves and goggles"
        />
        <PlanText
          v-model="one.cleaning"
          :at="`groups.${i}.cleaning`"
          label="Cleaned with, between two of them"
          :work="work"
          shown
          placeholder="hot water, three times"
        />
      </div>
    </li>
  </ul>
  <button type="button" class="press press-small mt-3" data-adds @click="plan.groups.push(group())">
    Add a group
  </button>
</template>
