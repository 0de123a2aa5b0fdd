<script setup lang="ts">
/** One scorer's values against another's: on the line they agree; a dot's size counts how often that
 * happened.  Very many values are gathered into squares.
 */
import { computed } from "vue";

import { honest } from "@/parts/amounts";
import type { Schemas } from "@/shell/api/client";

const props = defineProps<{ cloud: Schemas["Cloud"]; first: string; second: string; unit: string }>();
const [SIDE, EDGE] = [200, 26];
const half = computed(() => (props.cloud.square ?? 0) / 2);
const ends = computed(() => {
  const all = props.cloud.dots.flatMap((one) => [one.first, one.second]);
  const [low, high] = [Math.min(...all) - half.value, Math.max(...all) + half.value];
  return { low, high: high > low ? high : low + 1 };
});
const scale = computed(() => (SIDE - EDGE - 26) / (ends.value.high - ends.value.low));
const at = (value: number) => EDGE + 12 + scale.value * (value - ends.value.low);
const most = computed(() => Math.max(...props.cloud.dots.map((one) => one.times)));
/** A square's dot fills it where most of the values are. */
const radius = (times: number) =>
  props.cloud.square
    ? Math.max(0.7, half.value * scale.value * Math.sqrt(times / most.value))
    : Math.min(10, 2.2 * Math.sqrt(times) + 0.8);
const told = computed(
  () =>
    `${props.first} and ${props.second}: the same value ${props.cloud.same} of ${props.cloud.shared} times` +
    (props.cloud.square
      ? `; each dot gathers the values of a square of ${honest(props.cloud.square, 2)} ${props.unit}`
      : ""),
);
</script>

<template>
  <svg :viewBox="`0 0 ${SIDE} ${SIDE}`" class="w-full" role="img" :aria-label="told">
    <path :d="`M${EDGE} 4 V${SIDE - EDGE} H${SIDE - 4}`" fill="none" stroke="var(--ink)" stroke-width="1.5" />
    <path
      :d="`M${at(ends.low)} ${SIDE - at(ends.low)} L${at(ends.high)} ${SIDE - at(ends.high)}`"
      stroke="var(--soft)"
      stroke-width="1.5"
      stroke-dasharray="5 4"
    />
    <circle
      v-for="one in cloud.dots"
      :key="`${one.first}/${one.second}`"
      :cx="at(one.first)"
      :cy="SIDE - at(one.second)"
      :r="radius(one.times)"
      fill="var(--ink)"
      :fill-opacity="Math.abs(one.first - one.second) < 1e-9 ? 1 : 0"
      stroke="var(--ink)"
      :stroke-width="cloud.square ? 1 : 1.8"
    />
    <text :x="SIDE - 4" :y="SIDE - 8" text-anchor="end" class="words">
      {{ first }}, {{ honest(ends.low, 3) }} to {{ honest(ends.high, 3) }} {{ unit }}
    </text>
    <text x="0" y="0" text-anchor="end" class="words" :transform="`translate(14 6) rotate(-90)`">
      {{ second }}
    </text>
  </svg>
</template>

<style scoped>
.words {
  font-size: 12px;
  fill: var(--ink);
}
</style>
