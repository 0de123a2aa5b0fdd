<script setup lang="ts">
/** A reading with its doubt drawn: the band that holds the true value 95 times in 100, among what was read in
 * the other photos of this look.
 */
import { computed } from "vue";

import { alike } from "@/parts/amounts";

const props = defineProps<{ value: number; unsure: number; others: number[]; unit: string }>();
const WIDE = 320;
/** What is measured is no less than nothing, but where it is. */
const least = computed(() => Math.max(props.value - 2 * props.unsure, props.value >= 0 ? 0 : -Infinity));
const most = computed(() => props.value + 2 * props.unsure);
const ends = computed(() => {
  const all = [...props.others, least.value, most.value];
  const low = Math.min(...all);
  const high = Math.max(...all);
  const room = (high - low || 1) * 0.04;
  return { low: low - room, high: high + room };
});
const x = (value: number) =>
  12 + ((WIDE - 24) * (value - ends.value.low)) / (ends.value.high - ends.value.low);
const band = computed(() => ({
  from: x(least.value),
  to: x(most.value),
}));
/** Written as finely as the doubt allows. */
const decimals = computed(() => Math.max(0, Math.min(4, -Math.floor(Math.log10(props.unsure)))));
const said = (value: number) => alike(value, decimals.value);
</script>

<template>
  <figure class="mt-2">
    <svg v-if="others.length" :viewBox="`0 0 ${WIDE} 34`" class="block w-full" aria-hidden="true">
      <line :x1="12" :x2="WIDE - 12" y1="17" y2="17" stroke="currentColor" stroke-width="1" opacity="0.55" />
      <line
        v-for="(one, i) in others"
        :key="i"
        :x1="x(one)"
        :x2="x(one)"
        y1="12"
        y2="22"
        stroke="currentColor"
        stroke-width="1.5"
        opacity="0.6"
      />
      <rect
        :x="band.from"
        :width="Math.max(3, band.to - band.from)"
        y="9"
        height="16"
        fill="currentColor"
        opacity="0.38"
      />
      <line :x1="x(value)" :x2="x(value)" y1="3" y2="31" stroke="currentColor" stroke-width="3.5" />
    </svg>
    <figcaption class="text-[0.94rem]">
      from {{ said(least) }} to {{ said(most) }} {{ unit }}, 95 times in 100<template v-if="others.length"
        >; thin lines: the other photos</template
      >
    </figcaption>
  </figure>
</template>
