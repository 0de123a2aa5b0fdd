<script setup lang="ts">
import { sure } from "@/parts/sure";
/** Two methods against each other: each sample's difference over its mean, the bias and the limits of
 * agreement with their own intervals.
 */
import { scaleLinear } from "d3-scale";
import { computed, ref, useId } from "vue";

import { pushedApart } from "./lines";
import { honest } from "@/parts/amounts";
import type { Schemas } from "@/shell/api/client";
import { useWidth } from "@/shell/width";

const props = defineProps<{ pair: Schemas["AgainstEachOther"]; unit: string }>();
const box = ref<HTMLElement>();
const width = useWidth(box);
const id = useId();
const HEIGHT = 320;
const lines = computed(() => [
  { name: "upper limit", found: sure(props.pair.upper) },
  { name: "bias", found: sure(props.pair.bias) },
  { name: "lower limit", found: sure(props.pair.lower) },
]);
const x = computed(() => {
  const all = props.pair.means;
  const [low, high] = [Math.min(...all), Math.max(...all)];
  return scaleLinear()
    .domain(low === high ? [low - 1, high + 1] : [low, high])
    .range([60, width.value - 116])
    .nice(5);
});
const y = computed(() => {
  const all = [0, ...props.pair.apart, ...lines.value.flatMap((one) => [one.found.low, one.found.high])];
  return scaleLinear()
    .domain([Math.min(...all), Math.max(...all)])
    .range([HEIGHT - 50, 12])
    .nice(5);
});
const labels = computed(() =>
  pushedApart(
    lines.value.map((one) => ({ one, y: y.value(one.found.value) })),
    18,
  ),
);
const described = computed(() =>
  lines.value.map((one) => `${one.name} ${honest(one.found.value)} ${props.unit}`).join(", "),
);
</script>

<template>
  <figure ref="box" class="min-w-0">
    <svg :width="width" :height="HEIGHT" role="img" :aria-labelledby="`${id}-t ${id}-d`">
      <title :id="`${id}-t`">{{ pair.a }} less {{ pair.b }}, over the mean of both</title>
      <desc :id="`${id}-d`">{{ pair.n }} samples; {{ described }}.</desc>
      <g v-for="tick in y.ticks(5)" :key="tick">
        <line x1="60" :x2="width - 116" :y1="y(tick)" :y2="y(tick)" class="grid-line" />
        <text x="52" :y="y(tick) + 5" text-anchor="end" class="tick">{{ honest(tick, 4) }}</text>
      </g>
      <text
        v-for="tick in x.ticks(5)"
        :key="tick"
        :x="x(tick)"
        :y="HEIGHT - 28"
        text-anchor="middle"
        class="tick"
      >
        {{ honest(tick, 4) }}
      </text>
      <text :x="width - 116" :y="HEIGHT - 8" text-anchor="end" class="tick">
        mean of both{{ unit ? `, ${unit}` : "" }}
      </text>
      <g v-for="one in lines" :key="one.name">
        <rect
          x="60"
          :width="width - 176"
          :y="y(one.found.high)"
          :height="Math.max(1, y(one.found.low) - y(one.found.high))"
          class="band"
        />
        <line
          x1="60"
          :x2="width - 116"
          :y1="y(one.found.value)"
          :y2="y(one.found.value)"
          class="line"
          :stroke-dasharray="one.name === 'bias' ? '' : '8 5'"
        />
      </g>
      <line x1="60" :x2="width - 116" :y1="y(0)" :y2="y(0)" class="zero" />
      <text v-for="one in labels" :key="one.one.name" :x="width - 108" :y="one.y + 5" class="name">
        {{ one.one.name }}
      </text>
      <circle
        v-for="(mean, i) in pair.means"
        :key="i"
        :cx="x(mean)"
        :cy="y(pair.apart[i]!)"
        r="5"
        class="dot"
      >
        <title>{{ honest(mean) }}: {{ honest(pair.apart[i]!) }}</title>
      </circle>
    </svg>
    <figcaption class="text-[0.9rem] text-soft">
      Up: {{ pair.a }} reads more than {{ pair.b }}{{ unit ? `, ${unit}` : "" }}. Each dot a sample. Grey:
      where bias and limits themselves may lie.
    </figcaption>
  </figure>
</template>

<style scoped>
.grid-line {
  stroke: var(--line);
  stroke-dasharray: 1 5;
}
.tick {
  fill: var(--soft);
  font-size: 14px;
}
.name {
  fill: var(--ink);
  font-size: 14.5px;
  font-weight: 700;
}
.band {
  fill: var(--line);
  opacity: 0.4;
}
.line {
  stroke: var(--ink);
  stroke-width: 2.4;
}
.zero {
  stroke: var(--soft);
  stroke-width: 1;
}
.dot {
  fill: none;
  stroke: var(--ink);
  stroke-width: 2;
}
</style>
