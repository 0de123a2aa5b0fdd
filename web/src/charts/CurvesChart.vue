<script setup lang="ts">
import { sure } from "@/parts/sure";
/** The response of each sample at each step, a line a sample; its treatment's mean bold, and between which
 * steps half leave their straight line.
 */
import { scaleLinear } from "d3-scale";
import { computed, ref, useId } from "vue";

import { DASHES, pushedApart } from "./lines";
import { honest } from "@/parts/amounts";
import type { Schemas } from "@/shell/api/client";
import { useWidth } from "@/shell/width";

const props = defineProps<{
  steps: number[];
  unit: string;
  stepUnit: string;
  departed: readonly Schemas["Departed"][];
  letters: Record<string, { letter: string; hue: number }>;
  samples: { code: string; letter: string; responses: (number | null)[] }[];
  title: string;
}>();
const box = ref<HTMLElement>();
const width = useWidth(box, 420);
const id = useId();
const HEIGHT = 290;
const hueOf = (letter: string) => (letter.charCodeAt(0) - 65) % 8;
const x = computed(() =>
  scaleLinear()
    .domain([Math.min(0, props.steps[0] ?? 0), props.steps.at(-1) ?? 1])
    .range([52, width.value - 46]),
);
const y = computed(() => {
  const all = props.samples.flatMap((one) => one.responses.filter((each) => each !== null));
  return scaleLinear()
    .domain([Math.min(0, ...all), Math.max(...all, 1e-9)])
    .range([HEIGHT - 46, 12])
    .nice(5);
});
/** A line over the steps that were taken. */
const path = (responses: readonly (number | null)[]) =>
  responses
    .flatMap((one, i) => (one === null ? [] : [`${x.value(sure(props.steps[i]))} ${y.value(one)}`]))
    .map((point, i) => `${i ? "L" : "M"}${point}`)
    .join("");
const lastOf = (mean: readonly (number | null)[]) => mean.findLast((one) => one !== null) ?? 0;
const ends = computed(() =>
  pushedApart(
    props.departed.map((one) => ({ one, y: y.value(lastOf(one.mean)) })),
    24,
  ),
);
const described = computed(() =>
  props.departed
    .map(
      (one) =>
        `${one.treatment}: ${honest(lastOf(one.mean))} ${props.unit} at the last step; ${one.told ? `${one.left} of ${one.told} leave their straight line` : "too few steps to tell whether they leave their line"}.`,
    )
    .join(" "),
);
</script>

<template>
  <figure ref="box" class="min-w-0">
    <svg :width="width" :height="HEIGHT" role="img" :aria-labelledby="`${id}-t ${id}-d`">
      <title :id="`${id}-t`">{{ title }}</title>
      <desc :id="`${id}-d`">{{ described }}</desc>
      <g v-for="tick in y.ticks(5)" :key="tick">
        <line x1="52" :x2="width - 46" :y1="y(tick)" :y2="y(tick)" class="grid-line" />
        <text x="46" :y="y(tick) + 5" text-anchor="end" class="tick">{{ honest(tick, 4) }}</text>
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
      <text :x="width - 46" :y="HEIGHT - 6" text-anchor="end" class="tick">{{ stepUnit }}</text>
      <g v-for="sample in samples" :key="sample.code" :data-hue="hueOf(sample.letter)">
        <path :d="path(sample.responses)" class="sample">
          <title>{{ sample.code }}</title>
        </path>
      </g>
      <g v-for="one in departed" :key="one.treatment" :data-hue="letters[one.treatment]?.hue">
        <path :d="path(one.mean)" class="mean" :stroke-dasharray="DASHES[letters[one.treatment]?.hue ?? 0]" />
        <rect
          v-if="one.low !== null && one.high !== null"
          :x="x(one.low)"
          :width="Math.max(2, x(one.high) - x(one.low))"
          :y="HEIGHT - 56"
          height="8"
          class="span"
        >
          <title>
            half leave their line between {{ honest(one.low, 3) }} and {{ honest(one.high, 3) }}
            {{ stepUnit }}
          </title>
        </rect>
      </g>
      <line x1="52" :x2="width - 46" :y1="HEIGHT - 46" :y2="HEIGHT - 46" class="axis" />
      <g
        v-for="one in ends"
        :key="one.one.treatment"
        :data-hue="letters[one.one.treatment]?.hue"
        :transform="`translate(${width - 38} ${one.y - 11})`"
      >
        <rect width="26" height="22" class="chip" />
        <text
          x="13"
          y="16"
          text-anchor="middle"
          class="chip-letter"
          :textLength="(letters[one.one.treatment]?.letter ?? '').length > 1 ? 20 : undefined"
          lengthAdjust="spacingAndGlyphs"
        >
          {{ letters[one.one.treatment]?.letter }}
        </text>
      </g>
    </svg>
    <figcaption class="text-[0.9rem] text-soft">
      In {{ unit }}, over {{ stepUnit }}. Thin: each sample. Bold: their mean. Bar on the axis: between these
      steps half leave their straight line.
    </figcaption>
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
.sample {
  fill: none;
  stroke: var(--hue);
  stroke-width: 1.1;
  opacity: 0.45;
}
.mean {
  fill: none;
  stroke: var(--hue);
  stroke-width: 3;
}
.span {
  fill: var(--hue);
  opacity: 0.75;
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
