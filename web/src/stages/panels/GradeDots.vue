<script setup lang="ts">
/** Mean grades on the whole scale, from its lowest to its highest step. */
import type { Schemas } from "@/shell/api/client";
import { honest } from "@/parts/amounts";

const props = defineProps<{
  graded: Schemas["GradedAttribute"];
  things: readonly Schemas["LetteredThing"][];
}>();
const WIDTH = 640;
const LEFT = 170;
const x = (grade: number) => LEFT + ((WIDTH - LEFT - 60) * grade) / props.graded.attribute.steps;
const y = (i: number) => 20 + i * 34;
</script>

<template>
  <svg
    :viewBox="`0 0 ${WIDTH} ${y(things.length) + 22}`"
    class="mt-1 w-full max-w-3xl"
    role="img"
    :aria-label="`Mean grades of ${graded.attribute.name}, 0 to ${graded.attribute.steps}`"
  >
    <g v-for="(thing, i) in things" :key="thing.letter">
      <text :x="LEFT - 12" :y="y(i) + 5" text-anchor="end" class="words">
        {{ thing.name.length > 22 ? `${thing.name.slice(0, 21)}…` : thing.name }}
      </text>
      <path :d="`M${x(0)} ${y(i)} H${x(graded.attribute.steps)}`" stroke="var(--line)" stroke-width="2" />
      <template v-if="graded.means[i] !== null && graded.means[i] !== undefined">
        <circle :cx="x(graded.means[i]!)" :cy="y(i)" r="7" fill="var(--ink)" />
        <text :x="x(graded.means[i]!) + 13" :y="y(i) + 5" class="words bold">
          {{ honest(graded.means[i]!, 2) }}
        </text>
      </template>
    </g>
    <text :x="x(0)" :y="y(things.length) + 6" class="words">0 {{ graded.attribute.low }}</text>
    <text :x="x(graded.attribute.steps)" :y="y(things.length) + 6" text-anchor="end" class="words">
      {{ graded.attribute.steps }} {{ graded.attribute.high }}
    </text>
  </svg>
</template>

<style scoped>
.words {
  font-size: 14px;
  fill: var(--ink);
}
.bold {
  font-weight: 700;
}
</style>
