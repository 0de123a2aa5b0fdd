<script setup lang="ts">
/** How often guessing alone gives each number of right answers, with the number needed and the number there
 * was.
 */
import { computed, ref } from "vue";

import type { Schemas } from "@/shell/api/client";
import { useWidth } from "@/shell/width";

/** `least`: the count needed; `most`: where alike is asked, the largest count that would do, and then nothing
 * is needed.
 */
const props = defineProps<{
  chance: readonly number[];
  found: Schemas["Discrimination"];
  least: number;
  most: number | null;
  alike: boolean;
}>();
const [HEIGHT, FOOT] = [210, 150];
const box = ref<HTMLElement>();
const width = useWidth(box, 720);
const top = computed(() => Math.max(...props.chance));
const wide = computed(() => (width.value - 20) / props.chance.length);
const x = (count: number) => 10 + wide.value * (count + 0.5);
const high = (p: number) => ((FOOT - 40) * p) / top.value;
const dark = (count: number) =>
  props.alike ? props.most !== null && count <= props.most : count >= props.least;
const line = computed(() =>
  props.alike
    ? props.most === null
      ? null
      : x(props.most) + wide.value / 2
    : props.least <= props.found.n
      ? x(props.least) - wide.value / 2
      : null,
);
const limit = computed(() =>
  props.alike
    ? props.most === null
      ? "with so few, alike cannot be shown"
      : `alike: at most ${props.most}`
    : `needed: ${props.least}`,
);
const marks = computed(() => [0, props.found.n]);
</script>

<template>
  <figure ref="box" class="max-w-4xl min-w-0">
    <svg
      :width="width"
      :height="HEIGHT"
      role="img"
      :aria-label="`By guessing ${found.n} judgements give about ${Math.round(found.n * found.guess)} right answers; there were ${found.correct}, and ${alike ? (most === null ? 'no count would do' : `at most ${most} would do`) : `${least} were needed`}`"
    >
      <path :d="`M10 ${FOOT} H${width - 10}`" stroke="var(--ink)" stroke-width="2" />
      <rect
        v-for="(p, count) in chance"
        :key="count"
        :x="x(count) - wide * 0.38"
        :y="FOOT - high(p)"
        :width="wide * 0.76"
        :height="high(p)"
        :fill="dark(count) ? 'var(--ink)' : 'var(--line)'"
      />
      <path
        v-if="line !== null"
        :d="`M${line} 34 V${FOOT}`"
        stroke="var(--ink)"
        stroke-width="1.5"
        stroke-dasharray="5 4"
      />
      <text
        v-if="line !== null"
        :x="line + (line > width * 0.7 ? -5 : 5)"
        y="30"
        class="words"
        :text-anchor="line > width * 0.7 ? 'end' : 'start'"
      >
        {{ limit }}
      </text>
      <text v-else-if="alike" x="14" y="30" class="words">{{ limit }}</text>
      <path :d="`M${x(found.correct)} ${FOOT + 4} l-7 13 h14 Z`" fill="var(--ink)" />
      <text
        :x="Math.min(width - 70, Math.max(70, x(found.correct)))"
        :y="FOOT + 36"
        text-anchor="middle"
        class="words bold"
      >
        {{ found.correct }} were right
      </text>
      <text v-for="mark in marks" :key="mark" :x="x(mark)" :y="FOOT + 54" text-anchor="middle" class="words">
        {{ mark }}
      </text>
    </svg>
    <figcaption class="text-soft">
      What guessing alone gives, for each number of right answers of {{ found.n
      }}<template v-if="!alike"
        >; dark: so many or more come by chance at most {{ Math.round(found.alpha * 100) }} times in
        100</template
      ><template v-else-if="most !== null">; dark: so few show that they are alike enough</template>.
    </figcaption>
  </figure>
</template>

<style scoped>
.words {
  font-size: 14px;
  fill: var(--ink);
}
.bold {
  font-weight: 700;
  font-size: 16px;
}
</style>
