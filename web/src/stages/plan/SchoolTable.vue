<script setup lang="ts">
/** Two honest schools side by side: each product as its label says, and all with the same active ingredient.
 */
import { letterOf } from "@/parts/letters";
import { honest } from "@/parts/amounts";
import type { Plan } from "./usePlan";
import type { Schemas } from "@/shell/api/client";

const props = defineProps<{ school: Schemas["Schools"]; plan: Plan; editable: boolean }>();
const emit = defineEmits<{ same: [row: Schemas["SideBySide"]] }>();
const nameOf = (key: string) => {
  const i = props.plan.treatments.findIndex((one) => one.key === key);
  return `${letterOf(i)}  ${props.plan.treatments[i]?.name ?? ""}`;
};
const most = () => Math.max(...props.school.rows.map((row) => row.times), 1e-9);
</script>

<template>
  <div>
    <p class="text-[1.05rem] font-medium">{{ school.says }}</p>
    <ul class="mt-2 border-t-2 border-ink" :aria-label="`Doses by ${school.active}`">
      <li
        v-for="row in school.rows"
        :key="row.dose"
        class="rule grid gap-x-4 py-2 first:border-0 sm:grid-cols-[minmax(0,1.3fr)_minmax(0,1fr)_minmax(0,1fr)_auto] sm:items-center"
      >
        <b>{{ nameOf(row.treatment) }}</b>
        <span>{{ row.now }} as planned, {{ row.active }} {{ school.active }}</span>
        <span class="flex items-center gap-2"
          ><svg viewBox="0 0 100 14" class="h-3.5 w-16 flex-none" aria-hidden="true">
            <rect y="2" height="10" :width="(100 * row.times) / most()" fill="var(--ink)" /></svg
          ><span class="whitespace-nowrap">× {{ honest(row.times, 3) }}</span
          ><span class="whitespace-nowrap text-soft">same: {{ row.same }}</span></span
        >
        <button
          v-if="editable && Math.abs(row.times - 1) > 0.01"
          type="button"
          class="quiet justify-self-start"
          :aria-label="`Give ${nameOf(row.treatment)} the same ${school.active}`"
          @click="emit('same', row)"
        >
          Take this
        </button>
      </li>
    </ul>
  </div>
</template>
