<script setup lang="ts">
import { sure } from "@/parts/sure";
/** All samples together at each finished look, a dot each, in ink: no hue, no code, no order that could hint
 * at a treatment.
 */
import { scaleLinear } from "d3-scale";
import { computed, ref, useId } from "vue";

import { stacked } from "./stacked";
import { isShare, unitOf, type Scale, reading, tickWord } from "@/parts/amounts";
import { useWidth } from "@/shell/width";

const props = defineProps<{
  looks: readonly { checkpoint: string; name: string; values: readonly number[] }[];
  scale: Scale;
  title: string;
}>();
const box = ref<HTMLElement>();
const width = useWidth(box, 420);
const id = useId();
const SIZE = 9;
const LEFT = 104;
const domain = computed<[number, number]>(() => {
  if (isShare(props.scale)) return [0, 1];
  if (props.scale.kind === "grade")
    return [sure(props.scale.levels[0]).value, sure(props.scale.levels.at(-1)).value];
  const all = props.looks.flatMap((look) => look.values);
  const [low, high] = [Math.min(...all), Math.max(...all)];
  return low === high ? [low - 1, high + 1] : [low, high];
});
const x = computed(() =>
  scaleLinear()
    .domain(domain.value)
    .range([LEFT + 8, width.value - 16]),
);
const rows = computed(() => {
  let top = 4;
  return props.looks.map((look) => {
    const dots = stacked(
      look.values.map((value) => ({ value })),
      (one) => x.value(one.value),
      SIZE,
    );
    const height = Math.max(30, (Math.max(...dots.map((dot) => dot.level)) + 1) * SIZE + 12);
    const row = { look, dots, base: top + height - 6 };
    top += height;
    return row;
  });
});
const height = computed(() => (rows.value.at(-1)?.base ?? 0) + 40);
const label = (value: number) => tickWord(value, props.scale);
const ticks = computed(() => (isShare(props.scale) ? [0, 1] : x.value.ticks(5)));
const described = computed(() =>
  props.looks
    .map(
      (look) =>
        `${look.name}: ${look.values.length} values from ${reading(sure(look.values[0]), props.scale)} to ${reading(sure(look.values.at(-1)), props.scale)}.`,
    )
    .join(" "),
);
</script>

<template>
  <figure ref="box" class="min-w-0">
    <svg :width="width" :height="height" role="img" :aria-labelledby="`${id}-t ${id}-d`">
      <title :id="`${id}-t`">{{ title }}, all samples together</title>
      <desc :id="`${id}-d`">{{ described }}</desc>
      <g v-for="tick in ticks" :key="tick">
        <line :x1="x(tick)" :x2="x(tick)" y1="2" :y2="height - 32" class="grid-line" />
        <text :x="x(tick)" :y="height - 14" text-anchor="middle" class="tick">{{ label(tick) }}</text>
      </g>
      <g v-for="row in rows" :key="row.look.checkpoint">
        <text x="0" :y="row.base - 2" class="name">
          {{ row.look.name.length > 13 ? `${row.look.name.slice(0, 12)}…` : row.look.name }}
        </text>
        <circle
          v-for="(dot, i) in row.dots"
          :key="i"
          :cx="dot.x"
          :cy="row.base - 5 - dot.level * SIZE"
          :r="SIZE / 2 - 0.7"
          class="dot"
        />
        <line :x1="LEFT" :x2="width" :y1="row.base" :y2="row.base" class="row" />
      </g>
    </svg>
    <figcaption v-if="unitOf(scale) && !isShare(scale)" class="text-[0.9rem] text-soft">
      In {{ unitOf(scale) }}.
    </figcaption>
  </figure>
</template>

<style scoped>
.grid-line {
  stroke: var(--line);
  stroke-dasharray: 1 5;
}
.row {
  stroke: var(--line);
}
.tick {
  fill: var(--soft);
  font-size: 14px;
}
.name {
  fill: var(--ink);
  font-size: 14.5px;
}
.dot {
  fill: var(--ink);
}
</style>
