<script setup lang="ts">
import { sure } from "@/parts/sure";
/** A played trial: each sample a dot in ink, its treatment's mean with its interval, and the truth that was
 * supposed.
 */
import { scaleLinear } from "d3-scale";
import { computed, ref } from "vue";

import type { Outcome } from "./fresh";
import { stacked } from "@/charts/stacked";
import { amount, honest, isShare, unitOf } from "@/parts/amounts";
import type { Schemas } from "@/shell/api/client";
import { useWidth } from "@/shell/width";

const props = defineProps<{
  run: Schemas["DryRun"];
  finding: Schemas["Finding"];
  outcome: Outcome;
  truth?: Schemas["Imagined"];
  letters: Map<string, string>;
}>();
const box = ref<HTMLElement>();
const width = useWidth(box);
const ROW = 58;
const keys = computed(() => [...props.letters.keys()]);
const rows = computed(() =>
  props.finding.comparison.treatments.map((one, i) => {
    const letter = sure(props.letters.get(sure(keys.value[i])));
    return {
      ...one,
      letter,
      truth: props.truth?.means[sure(keys.value[i])] ?? null,
      values: props.run.samples.filter((sample) => sample.letter === letter).map((sample) => sample.value),
    };
  }),
);
const domain = computed<[number, number]>(() => {
  if (isShare(props.outcome.scale)) return [0, 1];
  const all = rows.value
    .flatMap((row) => [row.low, row.high, row.truth, row.estimate, ...row.values])
    .filter((value): value is number => value !== null);
  const [low, high] = [Math.min(...all), Math.max(...all)];
  return low === high ? [low - 1, high + 1] : [low, high];
});
const x = computed(() =>
  scaleLinear()
    .domain(domain.value)
    .range([46, width.value - 20])
    .nice(6),
);
const ticks = computed(() => x.value.ticks(6));
const top = (i: number) => i * ROW;
const tick = (value: number) => (isShare(props.outcome.scale) ? honest(100 * value) : honest(value, 4));
const told = computed(() =>
  rows.value
    .map(
      (row) =>
        `${row.letter}: found ${row.estimate === null ? "nothing" : amount(row.estimate, props.outcome.scale)}, truly ${row.truth === null ? "unknown" : amount(row.truth, props.outcome.scale)}`,
    )
    .join(". "),
);
</script>

<template>
  <figure ref="box" class="min-w-0">
    <svg :width="width" :height="rows.length * ROW + 40" role="img" :aria-label="told">
      <g v-for="value in ticks" :key="value">
        <line :x1="x(value)" :x2="x(value)" y1="0" :y2="rows.length * ROW" class="grid-line" />
        <text :x="x(value)" :y="rows.length * ROW + 18" text-anchor="middle" class="tick">
          {{ tick(value) }}
        </text>
      </g>
      <text :x="width - 20" :y="rows.length * ROW + 36" text-anchor="end" class="tick">
        {{ unitOf(outcome.scale) || outcome.name }}
      </text>
      <g v-for="(row, i) in rows" :key="row.letter" :transform="`translate(0 ${top(i)})`">
        <line x1="0" :x2="width" y1="0" y2="0" class="row-line" />
        <text x="10" y="34" class="letter">{{ row.letter }}</text>
        <rect
          v-if="row.low !== null && row.high !== null"
          :x="x(row.low)"
          y="8"
          :width="Math.max(2, x(row.high) - x(row.low))"
          height="12"
          class="interval"
        />
        <line
          v-if="row.estimate !== null"
          :x1="x(row.estimate)"
          :x2="x(row.estimate)"
          y1="4"
          y2="24"
          class="mean"
        />
        <path v-if="row.truth !== null" :d="`M${x(row.truth)} 24 l7 8 h-14 z`" class="truth" />
        <template v-if="!isShare(outcome.scale)">
          <circle
            v-for="(dot, j) in stacked(row.values, (value) => x(value), 10)"
            :key="j"
            :cx="dot.x"
            :cy="50 - dot.level * 9"
            r="4.2"
            class="dot"
          />
        </template>
        <text v-else :x="x(row.estimate ?? 0)" y="50" text-anchor="middle" class="tick">
          {{ row.values.filter((value) => value === 1).length }} of {{ row.values.length }}
        </text>
      </g>
      <line x1="46" :x2="width - 20" :y1="rows.length * ROW" :y2="rows.length * ROW" class="axis" />
    </svg>
    <figcaption class="text-[0.95rem] text-soft">
      Bar and mark: what this trial found. Triangle: what is truly so.
    </figcaption>
  </figure>
</template>

<style scoped>
.grid-line {
  stroke: var(--line);
  stroke-dasharray: 1 5;
}
.row-line {
  stroke: var(--line);
}
.axis {
  stroke: var(--ink);
  stroke-width: 2;
}
.tick {
  fill: var(--soft);
  font-size: 14px;
}
.letter {
  fill: var(--ink);
  font-weight: 700;
  font-size: 18px;
}
.interval {
  fill: var(--ink);
  opacity: 0.22;
}
.mean {
  stroke: var(--ink);
  stroke-width: 3.5;
}
.truth {
  fill: none;
  stroke: var(--ink);
  stroke-width: 2;
}
.dot {
  fill: var(--ink);
}
</style>
