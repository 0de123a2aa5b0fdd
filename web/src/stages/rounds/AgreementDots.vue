<script setup lang="ts">
/** One scorer's values against another's: on the line they agree; a dot's size counts how often that
 * happened.
 */
import { computed } from "vue";

import { honest } from "@/parts/amounts";

const props = defineProps<{
  dots: readonly { first: number; second: number }[];
  first: string;
  second: string;
  unit: string;
}>();
const [SIDE, EDGE] = [200, 26];
const ends = computed(() => {
  const all = props.dots.flatMap((one) => [one.first, one.second]);
  const [low, high] = [Math.min(...all), Math.max(...all)];
  return { low, high: high > low ? high : low + 1 };
});
const at = (value: number) =>
  EDGE + 12 + ((SIDE - EDGE - 26) * (value - ends.value.low)) / (ends.value.high - ends.value.low);
const counted = computed(() => {
  const found = new Map<string, { first: number; second: number; times: number }>();
  for (const one of props.dots) {
    const key = `${one.first}/${one.second}`;
    found.set(key, { ...one, times: (found.get(key)?.times ?? 0) + 1 });
  }
  return [...found.values()];
});
const same = computed(() => props.dots.filter((one) => one.first === one.second).length);
</script>

<template>
  <svg
    :viewBox="`0 0 ${SIDE} ${SIDE}`"
    class="w-full"
    role="img"
    :aria-label="`${first} and ${second}: the same value ${same} of ${dots.length} times`"
  >
    <path :d="`M${EDGE} 4 V${SIDE - EDGE} H${SIDE - 4}`" fill="none" stroke="var(--ink)" stroke-width="1.5" />
    <path
      :d="`M${at(ends.low)} ${SIDE - at(ends.low)} L${at(ends.high)} ${SIDE - at(ends.high)}`"
      stroke="var(--soft)"
      stroke-width="1.5"
      stroke-dasharray="5 4"
    />
    <circle
      v-for="one in counted"
      :key="`${one.first}/${one.second}`"
      :cx="at(one.first)"
      :cy="SIDE - at(one.second)"
      :r="Math.min(10, 2.2 * Math.sqrt(one.times) + 0.8)"
      fill="var(--ink)"
      :fill-opacity="one.first === one.second ? 1 : 0"
      stroke="var(--ink)"
      stroke-width="1.8"
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
