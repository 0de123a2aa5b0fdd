<script setup lang="ts">
/** How a treatment's samples lie over the levels of a grade: a tally stroke for each, one row a treatment, the middle one marked. */
import { computed } from "vue";

import type { Scale } from "@/parts/amounts";

export interface LevelsRow {
  letter: string;
  hue: number;
  name: string;
  values: number[];
  median: number | null;
}
const props = defineProps<{ rows: LevelsRow[]; scale: Extract<Scale, { kind: "grade" }>; title: string }>();
const most = computed(() => Math.max(1, ...props.rows.flatMap((row) => props.scale.levels.map((level) => row.values.filter((value) => value === level.value).length))));
const many = (row: LevelsRow, value: number) => row.values.filter((one) => one === value).length;
const middle = (row: LevelsRow, value: number) => row.median !== null && Math.abs(row.median - value) < 0.51 * gap.value;
const gap = computed(() => {
  const values = props.scale.levels.map((level) => level.value);
  return Math.min(...values.slice(1).map((value, i) => value - values[i]!), Infinity) || 1;
});
const share = (row: LevelsRow, value: number) => Math.round((100 * many(row, value)) / Math.max(1, row.values.length));
</script>

<template>
  <div class="overflow-x-auto" tabindex="0" role="region" :aria-label="title">
    <table class="figures">
      <caption class="sr-only">{{ title }}</caption>
      <thead><tr><th scope="col">Treatment</th><th v-for="level in scale.levels" :key="level.value" scope="col" class="number" :title="level.anchor">{{ level.label }}</th></tr></thead>
      <tbody>
        <tr v-for="row in rows" :key="row.letter" :data-hue="row.hue">
          <th scope="row"><span class="inline-grid h-6 min-w-6 place-items-center bg-(--hue) px-1 font-bold text-sheet">{{ row.letter }}</span> {{ row.name }}</th>
          <td v-for="level in scale.levels" :key="level.value" class="number" :class="middle(row, level.value) && many(row, level.value) ? 'outline-2 -outline-offset-2 outline-(--hue)' : ''">
            <template v-if="many(row, level.value)">
              <span class="block h-3 bg-(--hue)" :style="{ width: `${Math.max(6, (100 * many(row, level.value)) / most)}%`, marginLeft: 'auto' }" />
              {{ many(row, level.value) }} <span class="text-soft">({{ share(row, level.value) }} %)</span>
            </template>
            <span v-else class="text-soft">–</span>
          </td>
        </tr>
      </tbody>
    </table>
    <p class="mt-1 text-[0.9rem] text-soft">Samples at each level, and their share of the treatment. Outlined: the middle grade.</p>
  </div>
</template>
