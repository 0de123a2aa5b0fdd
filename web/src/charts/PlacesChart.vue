<script setup lang="ts">
import { sure } from "@/parts/sure";
/** Who wins where, drawn large: a column for each place, each sample a dot, a line for each treatment, and
 * above each column who won there.
 */
import { scaleLinear, scalePoint } from "d3-scale";
import { computed, ref, useId } from "vue";

import { DASHES, pushedApart } from "./lines";
import { amount, isShare, unitOf, type Scale, tickWord } from "@/parts/amounts";
import { useWidth } from "@/shell/width";

export interface PlacesLine {
  letter: string;
  hue: number;
  name: string;
  points: { place: string; mean: number; samples: { code: string; value: number }[] }[];
}
const props = defineProps<{
  places: { place: string; won: string | null; first: string | null }[];
  lines: PlacesLine[];
  scale: Scale;
  title: string;
}>();
const box = ref<HTMLElement>();
const width = useWidth(box, 640);
const id = useId();
const TOP = 78;
const HEIGHT = 400;
const narrow = computed(() => width.value < 560);
const all = computed(() =>
  props.lines.flatMap((line) =>
    line.points.flatMap((point) => [point.mean, ...point.samples.map((one) => one.value)]),
  ),
);
const y = computed(() => {
  const [low, high] = isShare(props.scale) ? [0, 1] : [Math.min(...all.value), Math.max(...all.value)];
  return scaleLinear()
    .domain(low === high ? [low - 1, high + 1] : [low, high])
    .range([HEIGHT - 14, TOP])
    .nice(4);
});
const x = computed(() =>
  scalePoint()
    .domain(props.places.map((one) => one.place))
    .range([62, width.value - (narrow.value ? 60 : 210)])
    .padding(0.25),
);
/** Treatments stand side by side in a place, as far apart as there is room. */
const apart = computed(() =>
  Math.min(46, Math.max(10, (0.8 * (x.value.step() || 200)) / Math.max(1, props.lines.length))),
);
const at = (place: string, i: number) =>
  (x.value(place) ?? 0) + (i - (props.lines.length - 1) / 2) * apart.value;
/** Samples of one value lie beside each other. */
const spread = (samples: { code: string; value: number }[]) =>
  samples.map((one) => {
    const alike = samples.filter((other) => Math.abs(y.value(other.value) - y.value(one.value)) < 4);
    return {
      ...one,
      dx:
        (alike.indexOf(one) - (alike.length - 1) / 2) * Math.min(9, apart.value / Math.max(1, alike.length)),
    };
  });
const path = (line: PlacesLine, i: number) =>
  line.points.map((point, k) => `${k ? "L" : "M"}${at(point.place, i)} ${y.value(point.mean)}`).join("");
const label = (value: number) => tickWord(value, props.scale);
const ends = computed(() =>
  pushedApart(
    props.lines.flatMap((line) =>
      line.points.length ? [{ line, y: y.value(sure(line.points.at(-1)).mean) }] : [],
    ),
    24,
  ),
);
const winner = (name: string | null) => props.lines.find((line) => line.name === name);
const described = computed(() =>
  props.places
    .map((one) => {
      const means = props.lines.flatMap((line) =>
        line.points
          .filter((point) => point.place === one.place)
          .map((point) => `${line.name} ${amount(point.mean, props.scale)}`),
      );
      return `${one.place}: ${one.won ? `${one.won} wins by its own test` : "nobody wins for sure"} (${means.join(", ")}).`;
    })
    .join(" "),
);
</script>

<template>
  <figure ref="box" class="min-w-0">
    <svg :width="width" :height="HEIGHT" role="img" :aria-labelledby="`${id}-t ${id}-d`">
      <title :id="`${id}-t`">{{ title }}</title>
      <desc :id="`${id}-d`">{{ described }}</desc>
      <g v-for="tick in y.ticks(4)" :key="tick">
        <line x1="54" :x2="width - 8" :y1="y(tick)" :y2="y(tick)" class="grid-line" />
        <text x="46" :y="y(tick) + 5" text-anchor="end" class="tick">{{ label(tick) }}</text>
      </g>
      <text x="46" y="56" text-anchor="end" class="tick">{{ isShare(scale) ? "" : unitOf(scale) }}</text>
      <g v-for="one in places" :key="one.place">
        <text :x="x(one.place)" y="20" text-anchor="middle" class="place">{{ one.place }}</text>
        <g v-if="one.won && winner(one.won)" :data-hue="winner(one.won)!.hue">
          <rect :x="x(one.place)! - 20" y="28" width="40" height="36" class="chip" />
          <text :x="x(one.place)" y="54" text-anchor="middle" class="big">{{ winner(one.won)!.letter }}</text>
        </g>
        <text v-else :x="x(one.place)" y="52" text-anchor="middle" class="tick">nobody for sure</text>
      </g>
      <g v-for="(line, i) in lines" :key="line.letter" :data-hue="line.hue">
        <path :d="path(line, i)" class="line" :stroke-dasharray="DASHES[line.hue]" />
        <g v-for="point in line.points" :key="point.place">
          <circle
            v-for="one in spread(point.samples)"
            :key="one.code"
            :cx="at(point.place, i) + one.dx"
            :cy="y(one.value)"
            r="4.5"
            class="dot"
          >
            <title>{{ one.code }}: {{ amount(one.value, scale) }}</title>
          </circle>
          <rect :x="at(point.place, i) - 11" :y="y(point.mean) - 2.5" width="22" height="5" class="mean" />
        </g>
      </g>
      <g v-for="one in ends" :key="one.line.letter" :data-hue="one.line.hue">
        <rect :x="width - (narrow ? 36 : 190)" :y="one.y - 12" width="26" height="23" class="chip" />
        <text
          :x="width - (narrow ? 23 : 177)"
          :y="one.y + 5"
          text-anchor="middle"
          class="chip-letter"
          :textLength="one.line.letter.length > 1 ? 20 : undefined"
          lengthAdjust="spacingAndGlyphs"
        >
          {{ one.line.letter }}
        </text>
        <text v-if="!narrow" :x="width - 158" :y="one.y + 5" class="name">
          {{ one.line.name.length > 19 ? `${one.line.name.slice(0, 18)}…` : one.line.name }}
        </text>
      </g>
    </svg>
    <figcaption class="text-[0.9rem] text-soft">
      A dot is a sample, a bar a mean. The letter above a place: who beats there, by its own test, the one
      that wins elsewhere.
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
.place {
  fill: var(--ink);
  font-size: 19px;
  font-weight: 700;
}
.name {
  fill: var(--ink);
  font-size: 15px;
  font-weight: 700;
}
.line {
  fill: none;
  stroke: var(--hue);
  stroke-width: 3;
  opacity: 0.8;
}
.dot {
  fill: var(--hue);
  opacity: 0.55;
}
.mean {
  fill: var(--hue);
}
.chip {
  fill: var(--hue);
}
.chip-letter {
  fill: var(--sheet);
  font-weight: 700;
  font-size: 15px;
}
.big {
  fill: var(--sheet);
  font-weight: 700;
  font-size: 25px;
}
</style>
