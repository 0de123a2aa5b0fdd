<script setup lang="ts">
import { sure } from "@/parts/sure";
/** How many are still without an event (or, of a ladder, still hold) as time or load goes up: a stair for
 * each
 * treatment.
 */
import { scaleLinear } from "d3-scale";
import { computed, ref, useId } from "vue";

import { DASHES, pushedApart } from "./lines";
import { honest } from "@/parts/amounts";
import type { Schemas } from "@/shell/api/client";
import { useWidth } from "@/shell/width";

const props = defineProps<{
  courses: readonly Schemas["EventCourse"][];
  letters: Record<string, { letter: string; hue: number }>;
  unit: string;
  end: number;
  title: string;
}>();
const box = ref<HTMLElement>();
const width = useWidth(box);
const id = useId();
const HEIGHT = 280;
const x = computed(() =>
  scaleLinear()
    .domain([0, props.end])
    .range([46, width.value - 46])
    .nice(6),
);
const y = scaleLinear()
  .domain([0, 1])
  .range([HEIGHT - 46, 14]);
function path(course: Schemas["EventCourse"]): string {
  let d = `M${x.value(0)} ${y(1)}`;
  course.times.forEach((time, i) => (d += `H${x.value(time)}V${y(sure(course.share[i]))}`));
  return `${d}H${x.value(props.end)}`;
}
const ends = computed(() =>
  pushedApart(
    props.courses.map((course) => ({ course, y: y(course.share.at(-1) ?? 1) })),
    24,
  ),
);
const described = computed(() =>
  props.courses
    .map(
      (one) =>
        `${one.treatment}: ${one.seen} of ${one.n}; median ${one.median === null ? "not reached" : `${honest(one.median, 3)} ${props.unit}`}.`,
    )
    .join(" "),
);
</script>

<template>
  <figure ref="box" class="min-w-0">
    <svg :width="width" :height="HEIGHT" role="img" :aria-labelledby="`${id}-t ${id}-d`">
      <title :id="`${id}-t`">{{ title }}</title>
      <desc :id="`${id}-d`">{{ described }}</desc>
      <g v-for="tick in [0, 0.5, 1]" :key="tick">
        <line :x1="46" :x2="width - 46" :y1="y(tick)" :y2="y(tick)" class="grid-line" />
        <text x="40" :y="y(tick) + 5" text-anchor="end" class="tick">{{ 100 * tick }} %</text>
      </g>
      <text
        v-for="tick in x.ticks(6)"
        :key="tick"
        :x="x(tick)"
        :y="HEIGHT - 26"
        text-anchor="middle"
        class="tick"
      >
        {{ honest(tick, 4) }}
      </text>
      <text :x="width - 46" :y="HEIGHT - 6" text-anchor="end" class="tick">{{ unit }}</text>
      <g v-for="(course, i) in courses" :key="course.treatment" :data-hue="letters[course.treatment]?.hue">
        <path :d="path(course)" class="stair" :stroke-dasharray="DASHES[i % 8]" />
      </g>
      <g
        v-for="one in ends"
        :key="one.course.treatment"
        :data-hue="letters[one.course.treatment]?.hue"
        :transform="`translate(${width - 38} ${Math.min(HEIGHT - 46, one.y) - 11})`"
      >
        <rect width="26" height="22" class="chip" />
        <text
          x="13"
          y="16"
          text-anchor="middle"
          class="chip-letter"
          :textLength="(letters[one.course.treatment]?.letter ?? '').length > 1 ? 20 : undefined"
          lengthAdjust="spacingAndGlyphs"
        >
          {{ letters[one.course.treatment]?.letter }}
        </text>
      </g>
      <line x1="46" :x2="width - 46" :y1="HEIGHT - 46" :y2="HEIGHT - 46" class="axis" />
    </svg>
  </figure>
</template>

<style scoped>
.grid-line {
  stroke: var(--line);
  stroke-dasharray: 1 5;
}
.axis {
  stroke: var(--ink);
  stroke-width: 2;
}
.tick {
  fill: var(--soft);
  font-size: 14px;
}
.stair {
  fill: none;
  stroke: var(--hue);
  stroke-width: 3;
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
