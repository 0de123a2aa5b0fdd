<script setup lang="ts">
/** What somebody's sets tell: a sentence, how far off each set was, which levels are mixed up, the figures.
 */
import { computed } from "vue";

import { bars } from "./learned";
import { honest, reading, type Scale } from "@/parts/amounts";
import type { Schemas } from "@/shell/api/client";

const props = defineProps<{ learned: Schemas["Learned"]; scale: Scale }>();
const W = 320;
const H = 110;
const picture = computed(() => bars(props.learned.sets, props.learned.limit, W, H));
const mostly = computed(() => props.learned.confusions.slice(0, 4));
/** An amount with its unit: one step, and not one steps. */
function amount(value: number): string {
  const [told, unit] = [honest(value, 2), props.learned.unit];
  return `${told} ${told === "1" && ["grades", "steps"].includes(unit) ? unit.slice(0, -1) : unit}`;
}
const signed = (value: number) => `${value > 0 ? "+" : value < 0 ? "−" : ""}${amount(Math.abs(value))}`;
</script>

<template>
  <div>
    <p class="max-w-2xl text-[1.15rem]">{{ learned.says }}</p>
    <div class="mt-3 flex flex-wrap gap-x-10 gap-y-4">
      <figure class="w-80 max-w-full">
        <svg
          :viewBox="`0 -18 ${W} ${H + 40}`"
          role="img"
          :aria-label="`How far off each set was: ${learned.sets.map((one) => `set ${one.number} ${amount(one.off)}`).join(', ')}; ready is ${honest(learned.limit, 2)} or less.`"
        >
          <g v-for="one in picture.bars" :key="one.number">
            <rect
              :x="one.x"
              :y="one.top"
              :width="picture.wide"
              :height="Math.max(2, one.height)"
              :fill="one.good ? 'var(--ink)' : 'none'"
              stroke="var(--ink)"
              stroke-width="2"
            />
            <text
              :x="one.x + picture.wide / 2"
              :y="one.top - 5"
              text-anchor="middle"
              font-size="14"
              fill="var(--ink)"
              stroke="var(--sheet)"
              stroke-width="4"
              paint-order="stroke"
            >
              {{ honest(one.off, 2) }}
            </text>
            <text
              :x="one.x + picture.wide / 2"
              :y="H + 18"
              text-anchor="middle"
              font-size="14"
              fill="var(--ink)"
            >
              {{ one.number }}
            </text>
          </g>
          <line
            :x2="W"
            :y1="picture.limit"
            :y2="picture.limit"
            stroke="var(--ink)"
            stroke-width="2"
            stroke-dasharray="7 5"
          />
          <text
            :x="W"
            :y="picture.limit - 5"
            text-anchor="end"
            font-size="14"
            fill="var(--ink)"
            stroke="var(--sheet)"
            stroke-width="4"
            paint-order="stroke"
          >
            ready: {{ honest(learned.limit, 2) }} {{ learned.unit }}
          </text>
        </svg>
        <figcaption class="text-soft">Off on average, in {{ learned.unit }}, set by set</figcaption>
      </figure>
      <dl class="grid grid-cols-[auto_auto] content-start gap-x-4 gap-y-1">
        <dt class="text-soft">Leaning</dt>
        <dd>
          <b>{{ signed(learned.bias) }}</b><template
            v-if="learned.bias_low !== null && learned.bias_high !== null"
          >
            ({{ signed(learned.bias_low) }} to {{ signed(learned.bias_high) }})</template
          >
        </dd>
        <dt class="text-soft">Spread</dt>
        <dd>
          <b>{{ learned.spread === null ? "one answer only" : amount(learned.spread) }}</b>
        </dd>
        <dt class="text-soft">Drift within a set</dt>
        <dd>
          <b>{{ learned.drift === null ? "too few answers" : signed(learned.drift) }}</b><template
            v-if="learned.drift_p !== null"
            >, p {{ honest(learned.drift_p, 2) }}</template
          >
        </dd>
        <dt class="text-soft">Answers</dt>
        <dd>
          <b>{{ learned.n }}</b> in {{ learned.sets.length }} {{ learned.sets.length === 1 ? "set" : "sets" }}
        </dd>
      </dl>
    </div>
    <template v-if="mostly.length">
      <p class="mt-3 font-bold">Mixed up</p>
      <ul>
        <li v-for="one in mostly" :key="one.low">
          {{ reading(one.low, scale) }} and {{ reading(one.high, scale) }}: {{ one.mixed }} of
          {{ one.of }} times
        </li>
      </ul>
    </template>
    <details class="mt-2">
      <summary class="quiet inline-flex items-center">
        Why {{ learned.ready ? "ready" : "not ready yet" }}?
      </summary>
      <p class="max-w-2xl">{{ learned.why }}</p>
    </details>
  </div>
</template>
