<script setup lang="ts">
/** The difference in each of several trials with its interval, the weight of each as the size of its mark,
 * and
 * what all say together.
 */
import { scaleLinear } from "d3-scale";
import { computed, ref, useId } from "vue";

import { honest } from "@/parts/amounts";
import type { Schemas } from "@/shell/api/client";
import { useWidth } from "@/shell/width";
import WideTable from "@/parts/WideTable.vue";

const props = defineProps<{ found: Schemas["Combined"]; a: string; b: string; unit: string }>();
const box = ref<HTMLElement>();
const width = useWidth(box);
const id = useId();
const ROW = 34;
const narrow = computed(() => width.value < 620);
const left = computed(() => (narrow.value ? 8 : 250));
const rows = computed(() => [
  ...props.found.trials.map((one, i) => ({
    name: one.name,
    difference: one.difference,
    low: one.low,
    high: one.high,
    weight: props.found.random.weights[i] ?? 0,
    pooled: false,
  })),
  { name: "All, one difference (fixed)", ...props.found.fixed, weight: 1, pooled: true },
  { name: "All, varying by trial (random)", ...props.found.random, weight: 1, pooled: true },
]);
const height = computed(() => rows.value.length * (narrow.value ? ROW + 18 : ROW) + 52);
const x = computed(() => {
  const all = [0, ...rows.value.flatMap((one) => [one.low, one.high])];
  return scaleLinear()
    .domain([Math.min(...all), Math.max(...all)])
    .range([left.value + 10, width.value - 16])
    .nice(6);
});
const y = (i: number) => (narrow.value ? i * (ROW + 18) + 34 : i * ROW + 18);
const diamond = (one: { low: number; high: number; difference: number }, at: number) =>
  `M${x.value(one.low)} ${at}L${x.value(one.difference)} ${at - 9}L${x.value(one.high)} ${at}L${x.value(one.difference)} ${at + 9}Z`;
const described = computed(() =>
  rows.value
    .map(
      (one) => `${one.name}: ${honest(one.difference)}, between ${honest(one.low)} and ${honest(one.high)}.`,
    )
    .join(" "),
);
const short = (name: string) => (name.length > 34 ? `${name.slice(0, 33)}…` : name);
</script>

<template>
  <figure ref="box" class="min-w-0 max-w-4xl">
    <svg :width="width" :height="height" role="img" :aria-labelledby="`${id}-t ${id}-d`">
      <title :id="`${id}-t`">{{ a }} less {{ b }} in each trial and together</title>
      <desc :id="`${id}-d`">{{ described }}</desc>
      <g v-for="tick in x.ticks(6)" :key="tick">
        <line :x1="x(tick)" :x2="x(tick)" y1="4" :y2="height - 42" class="grid-line" />
        <text :x="x(tick)" :y="height - 24" text-anchor="middle" class="tick">{{ honest(tick, 4) }}</text>
      </g>
      <line :x1="x(0)" :x2="x(0)" y1="4" :y2="height - 42" class="zero" />
      <g v-for="(one, i) in rows" :key="one.name + i">
        <text x="4" :y="narrow ? y(i) - 14 : y(i) + 5" class="name" :class="{ all: one.pooled }">
          {{ short(one.name) }}
        </text>
        <path v-if="one.pooled" :d="diamond(one, y(i))" class="mark" />
        <template v-else>
          <line :x1="x(one.low)" :x2="x(one.high)" :y1="y(i)" :y2="y(i)" class="bar" />
          <rect
            :x="x(one.difference) - (4 + 9 * one.weight)"
            :y="y(i) - (4 + 9 * one.weight)"
            :width="8 + 18 * one.weight"
            :height="8 + 18 * one.weight"
            class="mark"
          />
        </template>
      </g>
      <text :x="width - 16" :y="height - 4" text-anchor="end" class="tick">
        {{ a }} less {{ b }}{{ unit ? `, ${unit}` : "" }}
      </text>
    </svg>
    <details class="mt-1">
      <summary class="quiet inline-flex items-center">As a table</summary>
      <WideTable class="mt-1"
        ><table class="figures max-w-2xl">
          <thead>
            <tr>
              <th scope="col">Trial</th>
              <th scope="col" class="number">Difference</th>
              <th scope="col" class="number">95 in 100 between</th>
              <th scope="col" class="number">Weight</th>
            </tr>
          </thead>
          <tbody>
            <tr v-for="(one, i) in rows" :key="i">
              <th scope="row">{{ one.name }}</th>
              <td class="number">{{ honest(one.difference) }}</td>
              <td class="number">{{ honest(one.low) }} and {{ honest(one.high) }}</td>
              <td class="number">{{ one.pooled ? "" : `${Math.round(100 * one.weight)} %` }}</td>
            </tr>
          </tbody>
        </table></WideTable
      >
    </details>
  </figure>
</template>

<style scoped>
.grid-line {
  stroke: var(--line);
  stroke-dasharray: 1 5;
}
.zero {
  stroke: var(--ink);
  stroke-width: 1.5;
}
.tick {
  fill: var(--soft);
  font-size: 14px;
}
.name {
  fill: var(--ink);
  font-size: 15px;
}
.all {
  font-weight: 700;
  font-size: 13px;
}
.bar {
  stroke: var(--ink);
  stroke-width: 2.4;
}
.mark {
  fill: var(--ink);
}
</style>
