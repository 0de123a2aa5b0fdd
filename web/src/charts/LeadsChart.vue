<script setup lang="ts">
import { sure } from "@/parts/sure";
/** Who leads when: each treatment's mean over the checkpoints, at honest distances, labelled at the end of
 * its
 * line.
 */
import { scaleLinear } from "d3-scale";
import { computed, ref, useId } from "vue";

import { DASHES, pushedApart } from "./lines";
import { unitOf, type Scale, meanOf, tickWord } from "@/parts/amounts";
import { useWidth } from "@/shell/width";

export interface Line {
  letter: string;
  hue: number;
  name: string;
  points: { at: number; value: number }[];
}
const props = defineProps<{
  lines: Line[];
  checkpoints: { at: number; name: string }[];
  scale: Scale;
  title: string;
}>();
const box = ref<HTMLElement>();
const width = useWidth(box, 420);
const id = useId();
const HEIGHT = 270;
const share = computed(() => props.scale.kind === "passfail");
const values = computed(() => props.lines.flatMap((line) => line.points.map((point) => point.value)));
const y = computed(() => {
  const ends: [number, number] = share.value
    ? [0, 1]
    : [Math.min(...values.value), Math.max(...values.value)];
  const made = scaleLinear().domain(ends[0] === ends[1] ? [ends[0] - 1, ends[1] + 1] : ends);
  return made.range([HEIGHT - 40, 14]).nice(4);
});
const x = computed(() =>
  scaleLinear()
    .domain([props.checkpoints[0]?.at ?? 0, props.checkpoints.at(-1)?.at ?? 1])
    .range([46, width.value - 44]),
);
const path = (line: Line) =>
  line.points.map((point, i) => `${i ? "L" : "M"}${x.value(point.at)} ${y.value(point.value)}`).join("");
/** Labels at the line ends, pushed apart. */
const ends = computed(() =>
  pushedApart(
    props.lines
      .filter((line) => line.points.length)
      .map((line) => ({ line, y: y.value(sure(line.points.at(-1)).value) })),
    20,
  ),
);
const shown = computed(() => {
  let right = -Infinity;
  return props.checkpoints.filter((stop) => {
    const at = x.value(stop.at);
    if (at - right < 58) return false;
    right = at;
    return true;
  });
});
const label = (value: number) => tickWord(value, props.scale);
const described = computed(() =>
  props.lines
    .map(
      (line) =>
        `${line.letter} ${line.name}: ${line.points.map((p) => meanOf(p.value, props.scale)).join(", ")}.`,
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
        <line x1="46" :x2="width - 44" :y1="y(tick)" :y2="y(tick)" class="grid-line" />
        <text x="38" :y="y(tick) + 5" text-anchor="end" class="tick">{{ label(tick) }}</text>
      </g>
      <text
        v-for="stop in shown"
        :key="stop.at"
        :x="x(stop.at)"
        :y="HEIGHT - 14"
        text-anchor="middle"
        class="tick"
      >
        {{ stop.name }}
      </text>
      <g v-for="line in lines" :key="line.letter" :data-hue="line.hue">
        <path :d="path(line)" class="line" :stroke-dasharray="DASHES[line.hue]" />
        <circle
          v-for="point in line.points"
          :key="point.at"
          :cx="x(point.at)"
          :cy="y(point.value)"
          r="3.6"
          class="point"
        />
      </g>
      <g v-for="one in ends" :key="one.line.letter" :data-hue="one.line.hue">
        <rect :x="width - 34" :y="one.y - 11" width="24" height="20" class="chip" />
        <text
          :x="width - 22"
          :y="one.y + 4"
          text-anchor="middle"
          class="chip-letter"
          :textLength="one.line.letter.length > 1 ? 20 : undefined"
          lengthAdjust="spacingAndGlyphs"
        >
          {{ one.line.letter }}
        </text>
      </g>
    </svg>
    <figcaption class="text-[0.9rem] text-soft">
      Means{{ unitOf(scale) && !share ? `, ${unitOf(scale)}` : "" }}; distances in time are true.
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
.line {
  fill: none;
  stroke: var(--hue);
  stroke-width: 3;
}
.point {
  fill: var(--hue);
}
.chip {
  fill: var(--hue);
}
.chip-letter {
  fill: var(--sheet);
  font-weight: 700;
  font-size: 14px;
}
</style>
