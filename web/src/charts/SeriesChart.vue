<script setup lang="ts">
/** Each sample over time: one small picture a treatment, all on the same axes; every sample a line, the
 * treatment's mean bold, the means of the others pale.
 */
import { scaleLinear } from "d3-scale";
import { computed, ref, useId } from "vue";

import { isShare, unitOf, type Scale, meanOf, tickWord } from "@/parts/amounts";
import { useWidth } from "@/shell/width";

export interface Series {
  letter: string;
  hue: number;
  name: string;
  mean: { at: number; value: number }[];
  samples: { code: string; points: { at: number; value: number }[] }[];
}
const props = defineProps<{
  series: Series[];
  checkpoints: { at: number; name: string }[];
  scale: Scale;
  title: string;
}>();
const box = ref<HTMLElement>();
const width = useWidth(box);
const id = useId();
const HEIGHT = 190;
const many = computed(() => Math.max(1, Math.min(props.series.length, Math.floor(width.value / 250))));
const own = computed(() => Math.floor((width.value - (many.value - 1) * 16) / many.value));
const all = computed(() =>
  props.series.flatMap((one) => one.samples.flatMap((sample) => sample.points.map((point) => point.value))),
);
const y = computed(() => {
  if (isShare(props.scale))
    return scaleLinear()
      .domain([0, 1])
      .range([HEIGHT - 34, 10]);
  const [low, high] = [Math.min(...all.value), Math.max(...all.value)];
  return scaleLinear()
    .domain(low === high ? [low - 1, high + 1] : [low, high])
    .range([HEIGHT - 34, 10])
    .nice(4);
});
const x = computed(() =>
  scaleLinear()
    .domain([props.checkpoints[0]?.at ?? 0, props.checkpoints.at(-1)?.at ?? 1])
    .range([44, own.value - 12]),
);
const path = (points: { at: number; value: number }[]) =>
  points.map((point, i) => `${i ? "L" : "M"}${x.value(point.at)} ${y.value(point.value)}`).join("");
const label = (value: number) => tickWord(value, props.scale);
const said = (one: Series) =>
  `${one.letter} ${one.name}: ${one.samples.length} samples; mean ${one.mean.map((point) => meanOf(point.value, props.scale)).join(", ")}.`;
</script>

<template>
  <div ref="box" class="min-w-0">
    <div class="flex flex-wrap" style="gap: 16px">
      <figure
        v-for="one in series"
        :key="one.letter"
        class="min-w-0"
        :data-hue="one.hue"
        :style="{ width: `${own}px` }"
      >
        <figcaption class="flex items-center gap-2 font-bold">
          <span class="grid h-6 min-w-6 place-items-center bg-(--hue) px-1 text-sheet">{{
            one.letter
          }}</span>{{ one.name }}
        </figcaption>
        <svg :width="own" :height="HEIGHT" role="img" :aria-labelledby="`${id}-${one.letter}`">
          <desc :id="`${id}-${one.letter}`">{{ title }}. {{ said(one) }}</desc>
          <g v-for="tick in y.ticks(4)" :key="tick">
            <line x1="44" :x2="own - 12" :y1="y(tick)" :y2="y(tick)" class="grid-line" />
            <text x="38" :y="y(tick) + 5" text-anchor="end" class="tick">{{ label(tick) }}</text>
          </g>
          <path
            v-for="other in series.filter((each) => each !== one)"
            :key="other.letter"
            :d="path(other.mean)"
            class="other"
          />
          <path v-for="sample in one.samples" :key="sample.code" :d="path(sample.points)" class="sample">
            <title>{{ sample.code }}</title>
          </path>
          <path :d="path(one.mean)" class="mean" />
          <text :x="x(checkpoints[0]!.at)" :y="HEIGHT - 10" text-anchor="start" class="tick">
            {{ checkpoints[0]!.name }}
          </text>
          <text
            v-if="checkpoints.length > 1"
            :x="x(checkpoints.at(-1)!.at)"
            :y="HEIGHT - 10"
            text-anchor="end"
            class="tick"
          >
            {{ checkpoints.at(-1)!.name }}
          </text>
        </svg>
      </figure>
    </div>
    <p class="text-[0.9rem] text-soft">
      Thin: each sample. Bold: their mean. Pale: the means of the others.{{
        unitOf(scale) && !isShare(scale) ? ` In ${unitOf(scale)}.` : ""
      }}
    </p>
  </div>
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
.sample {
  fill: none;
  stroke: var(--hue);
  stroke-width: 1.2;
  opacity: 0.55;
}
.mean {
  fill: none;
  stroke: var(--hue);
  stroke-width: 4;
}
.other {
  fill: none;
  stroke: var(--line);
  stroke-width: 2.5;
}
</style>
