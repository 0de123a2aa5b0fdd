<script setup lang="ts">
/** A measuring tool drawn with its marks, filled to the amount, with what it cannot tell apart hatched around
 * that.
 */
import { computed, useId } from "vue";

import { honest } from "./amounts";

const props = defineProps<{ amount: number; most: number; graduation: number; unit: string }>();
const WIDTH = 240;
const MOST_MARKS = 60;
const id = useId();
/** A tool that is filled several times is drawn at its last filling. */
const fillings = computed(() => Math.max(1, Math.ceil(props.amount / props.most - 1e-9)));
const level = computed(() => props.amount - (fillings.value - 1) * props.most);
const x = (value: number) => 1 + (WIDTH - 2) * Math.max(0, Math.min(1, value / props.most));
const marks = computed(() => {
  const count = Math.round(props.most / props.graduation);
  const every = Math.max(1, Math.ceil(count / MOST_MARKS));
  return Array.from({ length: Math.floor(count / every) + 1 }, (_, i) => ({
    at: x(i * every * props.graduation),
    long: (i * every) % (5 * every) === 0,
  }));
});
const half = computed(() => (fillings.value * props.graduation) / 2);
const says = computed(
  () =>
    `${honest(props.amount, 4)} ${props.unit} in a tool of ${honest(props.most, 4)} ${props.unit}, marked every ${honest(props.graduation, 4)} ${props.unit}: read to ± ${honest(half.value, 3)} ${props.unit}${fillings.value > 1 ? `, filled ${fillings.value} times` : ""}`,
);
</script>

<template>
  <figure class="max-w-72">
    <svg :viewBox="`0 0 ${WIDTH} 34`" class="block w-full" role="img" :aria-label="says">
      <defs>
        <pattern :id="id" width="5" height="5" patternUnits="userSpaceOnUse" patternTransform="rotate(45)">
          <path d="M0 0V5" stroke="var(--ink)" stroke-width="2" />
        </pattern>
      </defs>
      <rect x="1" y="4" :width="Math.max(1, x(level) - 1)" height="16" fill="var(--ink)" opacity="0.28" />
      <rect
        :x="x(level - half)"
        y="4"
        :width="Math.max(2, x(level + half) - x(level - half))"
        height="16"
        :fill="`url(#${id})`"
      />
      <rect x="1" y="4" :width="WIDTH - 2" height="16" fill="none" stroke="var(--ink)" stroke-width="2" />
      <path
        v-for="one in marks"
        :key="one.at"
        :d="`M${one.at} 20V${one.long ? 30 : 26}`"
        stroke="var(--ink)"
        :stroke-width="one.long ? 1.6 : 0.8"
      />
    </svg>
    <figcaption class="text-[0.9rem] text-soft">
      read to ± {{ honest(half, 3) }} {{ unit
      }}<template v-if="fillings > 1">, filled {{ fillings }} times</template>
    </figcaption>
  </figure>
</template>
