<script setup lang="ts">
/** Two honest schools side by side: each product as its label says, and all with the same active ingredient. */
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
    <div class="mt-2 overflow-x-auto" tabindex="0" role="region" :aria-label="`Doses by ${school.active}`">
      <table class="figures">
        <thead><tr><th scope="col">Treatment</th><th scope="col" class="number">As planned</th><th scope="col" class="number">{{ school.active }} in it</th><th scope="col">Against the first</th><th scope="col" class="number">Same {{ school.active }}</th><th scope="col"><span class="sr-only">Take it</span></th></tr></thead>
        <tbody>
          <tr v-for="row in school.rows" :key="row.dose">
            <th scope="row" class="whitespace-normal">{{ nameOf(row.treatment) }}</th>
            <td class="number">{{ row.now }}</td>
            <td class="number">{{ row.active }}</td>
            <td class="whitespace-nowrap"><svg viewBox="0 0 100 14" class="inline-block h-3.5 w-16 align-middle" aria-hidden="true"><rect y="2" height="10" :width="(100 * row.times) / most()" fill="var(--ink)" /></svg> <span class="whitespace-nowrap">× {{ honest(row.times, 3) }}</span></td>
            <td class="number">{{ row.same }}</td>
            <td><button v-if="editable && Math.abs(row.times - 1) > 0.01" type="button" class="quiet" :aria-label="`Give ${nameOf(row.treatment)} the same ${school.active}`" @click="emit('same', row)">Take this</button></td>
          </tr>
        </tbody>
      </table>
    </div>
  </div>
</template>
