<script setup lang="ts">
/** How often guessing alone gives each number of right answers, with the number needed and the number there was. */
import { computed } from "vue";

import type { Schemas } from "@/shell/api/client";

const props = defineProps<{ chance: readonly number[]; found: Schemas["Discrimination"] }>();
const [WIDTH, HEIGHT, FOOT] = [720, 210, 150];
const top = computed(() => Math.max(...props.chance));
const wide = computed(() => (WIDTH - 20) / props.chance.length);
const x = (count: number) => 10 + wide.value * (count + 0.5);
const high = (p: number) => ((FOOT - 40) * p) / top.value;
const marks = computed(() => [0, props.found.n]);
</script>

<template>
  <figure>
    <svg :viewBox="`0 0 ${WIDTH} ${HEIGHT}`" class="w-full max-w-4xl" role="img" :aria-label="`By guessing ${found.n} judgements give about ${Math.round(found.n * found.guess)} right answers; there were ${found.correct}, and ${found.needed} were needed`">
      <path :d="`M10 ${FOOT} H${WIDTH - 10}`" stroke="var(--ink)" stroke-width="2" />
      <rect v-for="(p, count) in chance" :key="count" :x="x(count) - wide * 0.38" :y="FOOT - high(p)" :width="wide * 0.76" :height="high(p)" :fill="count >= found.needed ? 'var(--ink)' : 'var(--line)'" />
      <path v-if="found.needed <= found.n" :d="`M${x(found.needed) - wide / 2} 34 V${FOOT}`" stroke="var(--ink)" stroke-width="1.5" stroke-dasharray="5 4" />
      <text v-if="found.needed <= found.n" :x="x(found.needed) - wide / 2 + 5" y="30" class="words" :text-anchor="x(found.needed) > WIDTH * 0.7 ? 'end' : 'start'">needed: {{ found.needed }}</text>
      <path :d="`M${x(found.correct)} ${FOOT + 4} l-7 13 h14 Z`" fill="var(--ink)" />
      <text :x="Math.min(WIDTH - 70, Math.max(70, x(found.correct)))" :y="FOOT + 36" text-anchor="middle" class="words bold">{{ found.correct }} were right</text>
      <text v-for="mark in marks" :key="mark" :x="x(mark)" :y="FOOT + 54" text-anchor="middle" class="words">{{ mark }}</text>
    </svg>
    <figcaption class="text-soft">What guessing alone gives, for each number of right answers of {{ found.n }}; dark: so many or more come by chance at most {{ Math.round(found.alpha * 100) }} times in 100.</figcaption>
  </figure>
</template>

<style scoped>
.words { font-size: 14px; fill: var(--ink); }
.bold { font-weight: 700; font-size: 16px; }
</style>
