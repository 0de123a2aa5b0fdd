<script setup lang="ts">
/** Counts drawn as tally strokes in fives: solid once on the server, hollow while only on this device, faint
 * for what is
 * still to come. */
import { computed } from "vue";

const props = withDefaults(
  defineProps<{
    solid: number;
    hollow?: number;
    rest?: number;
    label: string;
    height?: number;
    onDark?: boolean;
  }>(),
  { hollow: 0, rest: 0, height: 26, onDark: false },
);

const STEP = 8;
const GAP = 12;
const LIMIT = 60;

/** More than sixty strokes cannot be read: then each stands for several. */
const each = computed(() => Math.max(1, Math.ceil((props.solid + props.hollow + props.rest) / LIMIT)));
const strokes = computed(() => {
  const scaled = (n: number) => Math.round(n / each.value);
  const solid = scaled(props.solid);
  const hollow = scaled(props.solid + props.hollow) - solid;
  const all = scaled(props.solid + props.hollow + props.rest);
  return Array.from({ length: all }, (_, i) =>
    i < solid ? "solid" : i < solid + hollow ? "hollow" : "rest",
  );
});
const groups = computed(() => {
  const fives: string[][] = [];
  for (let i = 0; i < strokes.value.length; i += 5) fives.push(strokes.value.slice(i, i + 5));
  return fives;
});
const width = computed(() => Math.max(1, groups.value.length) * (4 * STEP + GAP) - GAP + 8);
const left = (i: number) => i * (4 * STEP + GAP) + 4;
</script>

<template>
  <svg
    :width="(width * height) / 26"
    :height="height"
    :viewBox="`0 0 ${width} 26`"
    role="img"
    :aria-label="label"
    class="max-w-full shrink"
  >
    <g v-for="(group, i) in groups" :key="i" :transform="`translate(${left(i)} 0)`">
      <template v-for="(kind, j) in group" :key="j">
        <rect v-if="j < 4" :x="j * STEP" y="3" width="4" height="20" :class="kind" />
        <polygon v-else points="-4,19 -2,22.5 32,7 30,3.5" :class="kind" />
      </template>
    </g>
  </svg>
</template>

<style scoped>
.solid {
  fill: currentColor;
}
.hollow {
  fill: none;
  stroke: currentColor;
  stroke-width: 1.5;
}
.rest {
  fill: currentColor;
  opacity: 0.2;
}
</style>
