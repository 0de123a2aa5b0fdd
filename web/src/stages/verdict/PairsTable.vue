<script setup lang="ts">
import { sure } from "@/parts/sure";
/** Each pair of treatments: the difference with its interval, its own p and the adjusted one. */
import { computed, ref } from "vue";

import DialogSheet from "@/parts/DialogSheet.vue";
import { difference, honest, type Scale } from "@/parts/amounts";
import type { Schemas } from "@/shell/api/client";

const props = defineProps<{ finding: Schemas["Finding"]; verdict: Schemas["VerdictOut"]; scale: Scale }>();
const how = ref(false);
const at = (name: string) => props.verdict.treatments.findIndex((one) => one.name === name);
const letter = (name: string) => sure(props.verdict.treatments[at(name)]).letter;
/** Each pair with the better one first. */
const pairs = computed(() => {
  const goodness = (name: string) => sure(props.finding.comparison.treatments[at(name)]).worth ?? -Infinity;
  const other = (value: number | null) => (value === null ? null : 1 - value);
  const minus = (value: number | null) => (value === null ? null : -value);
  return props.finding.comparison.pairs
    .map((pair) =>
      goodness(pair.a) >= goodness(pair.b)
        ? pair
        : {
            ...pair,
            a: pair.b,
            b: pair.a,
            difference: -pair.difference,
            low: minus(pair.high),
            high: minus(pair.low),
            chance: 1 - pair.chance,
            chance_low: other(pair.chance_high),
            chance_high: other(pair.chance_low),
          },
    )
    .sort((a, b) => a.p - b.p);
});
const ranked = computed(() => props.finding.comparison.column.kind === "grade");
const timed = computed(() => ["event", "ladder"].includes(props.finding.comparison.column.kind));
const hundred = (chance: number) => String(Math.round(100 * chance));
const overall = computed(() => props.finding.comparison.overall);
const method = (pair: Schemas["Pair"]) =>
  pair.method === "welch"
    ? "Welch’s test, for the spreads differ plainly"
    : pair.method === "exact"
      ? `all ${pair.arrangements.toLocaleString("en")} arrangements`
      : `${pair.arrangements.toLocaleString("en")} shuffles`;
const level = computed(() => 100 - Math.round(100 * props.verdict.alpha));
</script>

<template>
  <section class="min-w-0">
    <div class="flex items-baseline justify-between gap-4">
      <h2>Each against each</h2>
      <button class="quiet" @click="how = true">How?</button>
    </div>
    <p v-if="overall">All together: p {{ honest(overall.p, 2) }}.</p>
    <div class="overflow-x-auto" tabindex="0" role="region" aria-label="Each against each">
      <table class="figures mt-2">
        <thead>
          <tr>
            <th scope="col">Pair</th>
            <th scope="col" class="number">{{ ranked ? "Beats, in 100" : "Difference" }}</th>
            <th scope="col" class="number">{{ level }} in 100 between</th>
            <th scope="col" class="number">p</th>
            <th scope="col" class="number">p, adjusted</th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="pair in pairs" :key="pair.a + pair.b">
            <td class="whitespace-nowrap">
              <span v-for="(name, i) in [pair.a, pair.b]" :key="name" :data-hue="at(name) % 8">
                <template v-if="i">{{ ranked ? " over " : " − " }}</template>
                <span
                  class="inline-grid h-6 min-w-6 place-items-center bg-(--hue) px-1 font-bold text-sheet"
                  :title="name"
                  >{{ letter(name) }}</span
                >
              </span>
            </td>
            <td class="number">{{ ranked ? hundred(pair.chance) : difference(pair.difference, scale) }}</td>
            <td v-if="ranked" class="number">
              {{
                pair.chance_low === null || pair.chance_high === null
                  ? "no bound"
                  : `${hundred(pair.chance_low)} and ${hundred(pair.chance_high)}`
              }}
            </td>
            <td v-else class="number">
              {{
                pair.low === null || pair.high === null
                  ? "no bound"
                  : `${difference(pair.low, scale).split(" ")[0]} and ${difference(pair.high, scale).split(" ")[0]}`
              }}
            </td>
            <td class="number">{{ honest(pair.p, 2) }}</td>
            <td class="number">{{ pair.p_adjusted === null ? "–" : honest(pair.p_adjusted, 2) }}</td>
          </tr>
        </tbody>
      </table>
    </div>
    <DialogSheet :open="how" title="How the pairs are compared" wide @close="how = false">
      <div class="mt-3 grid gap-3">
        <p>
          Take the samples of two treatments{{
            verdict.blocks.length ? `, place by place (${verdict.blocks.join(", ")})` : ""
          }}. If both did the same, any of them could have carried either label. So the labels are shuffled
          among just these samples {{ verdict.blocks.length ? "inside each place" : "" }}, and p is the share
          of shuffles that set the two at least as far apart as they really were.
        </p>
        <p>
          How far apart is measured by t = difference ÷ √(s²ₐ/nₐ + s²ᵦ/nᵦ){{
            ranked
              ? ", of mid-ranks: in how many comparisons one beats the other"
              : timed
                ? ", of log-rank scores: events seen less events expected"
                : ""
          }}. Where one side is spread plainly more and has no more samples, the larger of this p and Welch’s
          counts.
        </p>
        <p>
          The interval holds every difference that the same test would not contradict. “Adjusted” is for
          reading all pairs at once (Holm’s steps); the verdict’s leader needs only its own pairs.
        </p>
        <ul class="grid gap-1">
          <li v-for="pair in pairs" :key="pair.a + pair.b">
            {{ letter(pair.a) }} and {{ letter(pair.b) }}: {{ method(pair) }}; a {{ verdict.sample_word }} of
            {{ letter(pair.a) }} has the higher value {{ Math.round(100 * pair.chance) }} times in 100.
          </li>
        </ul>
      </div>
      <button class="press press-main mt-6" @click="how = false">Close</button>
    </DialogSheet>
  </section>
</template>
