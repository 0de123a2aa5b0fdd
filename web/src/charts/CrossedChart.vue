<script setup lang="ts">
import { sure } from "@/parts/sure";
/** What one factor does at each level of another: a mean and each sample's dot; lines that run alike mean
 * they
 * do not depend on each other.
 */
import { scaleLinear, scalePoint } from "d3-scale";
import { computed, ref, useId } from "vue";

import { DASHES, pushedApart } from "./lines";
import { amount, isShare, type Scale, tickWord } from "@/parts/amounts";
import { useWidth } from "@/shell/width";

export interface CrossedLine {
  name: string;
  points: { level: string; mean: number; samples: { code: string; value: number }[] }[];
}
const props = defineProps<{
  levels: string[];
  lines: CrossedLine[];
  scale: Scale;
  title: string;
  axis: string;
}>();
const box = ref<HTMLElement>();
const width = useWidth(box, 420);
const id = useId();
const HEIGHT = 260;
const all = computed(() =>
  props.lines.flatMap((line) =>
    line.points.flatMap((point) => [point.mean, ...point.samples.map((one) => one.value)]),
  ),
);
const y = computed(() => {
  if (isShare(props.scale))
    return scaleLinear()
      .domain([0, 1])
      .range([HEIGHT - 36, 12]);
  const [low, high] = [Math.min(...all.value), Math.max(...all.value)];
  return scaleLinear()
    .domain(low === high ? [low - 1, high + 1] : [low, high])
    .range([HEIGHT - 36, 12])
    .nice(4);
});
const x = computed(() =>
  scalePoint()
    .domain(props.levels)
    .range([70, width.value - 150])
    .padding(0.3),
);
const at = (level: string, i: number) => (x.value(level) ?? 0) + (i - (props.lines.length - 1) / 2) * 9;
const path = (line: CrossedLine, i: number) =>
  line.points.map((point, k) => `${k ? "L" : "M"}${at(point.level, i)} ${y.value(point.mean)}`).join("");
const label = (value: number) => tickWord(value, props.scale);
const ends = computed(() =>
  pushedApart(
    props.lines.flatMap((line) =>
      line.points.length ? [{ line, y: y.value(sure(line.points.at(-1)).mean) }] : [],
    ),
    20,
  ),
);
const described = computed(() =>
  props.lines
    .map(
      (line) =>
        `${line.name}: ${line.points.map((point) => `${point.level} ${amount(point.mean, props.scale)}`).join(", ")}.`,
    )
    .join(" "),
);
</script>

<template>
  <figure ref="box" class="min-w-0">
    <svg :width="width" :height="HEIGHT" role="img" :aria-labelledby="`${id}-t ${id}-d`">
      <title :id="`${id}-t`">{{ title }}</title>
      <desc :id="`${id}-d`">{{ described }}</desc>
      <g v-for="tick in y.ticks(4)" :key="tick">
        <line x1="46" :x2="width - 8" :y1="y(tick)" :y2="y(tick)" class="grid-line" />
        <text x="40" :y="y(tick) + 5" text-anchor="end" class="tick">{{ label(tick) }}</text>
      </g>
      <text
        v-for="level in levels"
        :key="level"
        :x="x(level)"
        :y="HEIGHT - 10"
        text-anchor="middle"
        class="tick"
      >
        {{ level }}
      </text>
      <g v-for="(line, i) in lines" :key="line.name">
        <path :d="path(line, i)" class="line" :stroke-dasharray="DASHES[i % 8]" />
        <g v-for="point in line.points" :key="point.level">
          <circle
            v-for="one in point.samples"
            :key="one.code"
            :cx="at(point.level, i)"
            :cy="y(one.value)"
            r="4"
            class="dot"
          >
            <title>{{ one.code }}: {{ amount(one.value, scale) }}</title>
          </circle>
          <rect :x="at(point.level, i) - 7" :y="y(point.mean) - 2" width="14" height="4" class="mean" />
        </g>
      </g>
      <text v-for="one in ends" :key="one.line.name" :x="width - 136" :y="one.y + 5" class="name">
        {{ one.line.name.length > 17 ? `${one.line.name.slice(0, 16)}…` : one.line.name }}
      </text>
    </svg>
    <figcaption class="text-[0.9rem] text-soft">
      {{ axis }} A dot is a sample, a bar a mean. Lines that run alike: one does not depend on the other.
    </figcaption>
  </figure>
</template>

<style scoped>
.grid-line {
  stroke: var(--line);
  stroke-dasharray: 1 5;
}
.tick {
  fill: var(--soft);
  font-size: 14px;
}
.name {
  fill: var(--ink);
  font-size: 14.5px;
  font-weight: 700;
}
.line {
  fill: none;
  stroke: var(--ink);
  stroke-width: 2.4;
}
.dot {
  fill: none;
  stroke: var(--soft);
  stroke-width: 1.4;
}
.mean {
  fill: var(--ink);
}
</style>
