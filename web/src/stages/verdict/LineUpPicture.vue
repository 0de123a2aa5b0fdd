<script setup lang="ts">
/** One small picture of a line-up: a column of dots for each treatment, or a line of its means over time. */
import { computed } from "vue";

const props = defineProps<{
  groups: readonly (readonly (number | null)[])[];
  kind: "dots" | "series";
  low: number;
  high: number;
}>();
const WIDE = 132;
const TALL = 96;
const EDGE = 7;
const DOT = 2.7;
const y = (value: number) =>
  TALL - EDGE - ((TALL - 2 * EDGE) * (value - props.low)) / (props.high - props.low);
const column = computed(() => (WIDE - 2 * EDGE) / props.groups.length);
/** Dots of one column; those that would lie on each other stand side by side. */
const dots = computed(() =>
  props.groups.flatMap((group, g) => {
    const rows = new Map<number, number[]>();
    for (const value of group) {
      if (value === null) continue;
      const row = Math.round(y(value) / (DOT * 1.7));
      rows.set(row, [...(rows.get(row) ?? []), value]);
    }
    const middle = EDGE + (g + 0.5) * column.value;
    return [...rows.values()].flatMap((own) => {
      const step = Math.min(DOT * 2, (column.value - DOT * 2) / Math.max(1, own.length));
      return own.map((value, i) => ({ x: middle + (i - (own.length - 1) / 2) * step, y: y(value) }));
    });
  }),
);
const known = (group: readonly (number | null)[]) => group.filter((one) => one !== null);
const means = computed(() =>
  props.groups.map((group, g) => {
    const own = known(group);
    const x = EDGE + (g + 0.5) * column.value;
    const mean = own.length ? own.reduce((sum, one) => sum + one, 0) / own.length : null;
    return { x, y: mean === null ? null : y(mean) };
  }),
);
const lines = computed(() =>
  props.groups.map((group) =>
    group
      .flatMap((value, i) =>
        value === null
          ? []
          : [`${EDGE + (i * (WIDE - 2 * EDGE)) / Math.max(1, group.length - 1)},${y(value)}`],
      )
      .join(" "),
  ),
);
const DASHES = ["none", "6 3", "2 3", "9 3 2 3", "4 2", "1 2"];
</script>

<template>
  <svg :viewBox="`0 0 ${WIDE} ${TALL}`" class="block w-full" aria-hidden="true">
    <template v-if="kind === 'dots'">
      <circle
        v-for="(dot, i) in dots"
        :key="i"
        :cx="dot.x"
        :cy="dot.y"
        :r="DOT"
        fill="none"
        stroke="currentColor"
        stroke-width="1.3"
      />
      <template v-for="(mean, i) in means" :key="`m${i}`">
        <line
          v-if="mean.y !== null"
          :x1="mean.x - column * 0.32"
          :x2="mean.x + column * 0.32"
          :y1="mean.y"
          :y2="mean.y"
          stroke="currentColor"
          stroke-width="2.6"
        />
      </template>
    </template>
    <polyline
      v-for="(points, i) in kind === 'series' ? lines : []"
      v-else
      :key="i"
      :points="points"
      fill="none"
      stroke="currentColor"
      stroke-width="2.2"
      :stroke-dasharray="DASHES[i % DASHES.length]"
    />
  </svg>
</template>
