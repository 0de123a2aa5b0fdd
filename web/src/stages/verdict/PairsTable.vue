<script setup lang="ts">
import { sure } from "@/parts/sure";
/** Pairs of treatments, the better one first: the leader's and the control's, and all others on demand. */
import { computed, ref } from "vue";

import DialogSheet from "@/parts/DialogSheet.vue";
import type { Schemas } from "@/shell/api/client";
import WideTable from "@/parts/WideTable.vue";

const props = defineProps<{ finding: Schemas["Finding"]; verdict: Schemas["VerdictOut"] }>();
const how = ref(false);
const all = ref(false);
const told = computed(() => sure(props.verdict.told.find((one) => one.outcome === props.finding.outcome)));
const pairs = computed(() => (all.value ? told.value.pairs : told.value.pairs.slice(0, told.value.first)));
const at = (name: string) => props.verdict.treatments.findIndex((one) => one.name === name);
const letter = (name: string) => sure(props.verdict.treatments[at(name)]).letter;
const ranked = computed(() => props.finding.comparison.column.kind === "grade");
const timed = computed(() => ["event", "ladder"].includes(props.finding.comparison.column.kind));
const level = computed(() => 100 - Math.round(100 * props.verdict.alpha));
const inPlaces = computed(() =>
  props.verdict.blocks.length ? `, place by place (${props.verdict.blocks.join(", ")})` : "",
);
</script>

<template>
  <div class="min-w-0">
    <div class="flex flex-wrap items-baseline justify-between gap-x-4">
      <p>{{ told.overall }}</p>
      <button class="quiet" @click="how = true">How?</button>
    </div>
    <WideTable label="Each against each">
      <table class="figures mt-1">
        <thead>
          <tr>
            <th scope="col">Pair</th>
            <th scope="col" class="number">{{ told.heading }}</th>
            <th scope="col" class="number">{{ level }} in 100 between</th>
            <th scope="col" class="number">p</th>
            <th scope="col" class="number">p, adjusted</th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="pair in pairs" :key="pair.better + pair.other">
            <th scope="row" class="font-normal">
              <span v-for="(name, i) in [pair.better, pair.other]" :key="name" :data-hue="at(name) % 8">
                <template v-if="i">{{ ranked ? " over " : " − " }}</template>
                <span
                  class="inline-grid h-6 min-w-6 place-items-center bg-(--hue) px-1 font-bold text-sheet"
                  :title="name"
                  >{{ letter(name) }}</span><span class="sr-only"> {{ name }}</span
                ><template v-if="verdict.treatments.length > 8"> {{ name }}</template>
              </span>
            </th>
            <td class="number">{{ pair.effect }}</td>
            <td class="number">{{ pair.between }}</td>
            <td class="number">{{ pair.p }}</td>
            <td class="number">{{ pair.adjusted }}</td>
          </tr>
        </tbody>
      </table>
    </WideTable>
    <button
      v-if="told.first < told.pairs.length"
      type="button"
      class="quiet mt-1"
      :aria-expanded="all"
      @click="all = !all"
    >
      {{ all ? "Only those that are asked for first" : `All ${told.pairs.length} pairs` }}
    </button>
    <DialogSheet :open="how" title="How the pairs are compared" wide @close="how = false">
      <div class="mt-3 grid gap-3">
        <p>
          Take the samples of two treatments{{ inPlaces }}. If both did the same, any of them could have
          carried either label. So the labels are shuffled among just these samples{{
            verdict.blocks.length ? " inside each place" : ""
          }}, and p is the share of shuffles that set the two at least as far apart as they really were. Where
          not one did, p is told as a bound (≤).
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
          <li v-for="pair in pairs" :key="pair.better + pair.other">
            {{ letter(pair.better) }} and {{ letter(pair.other) }}: {{ pair.how }}.
          </li>
        </ul>
      </div>
      <button class="press press-main mt-6" @click="how = false">Close</button>
    </DialogSheet>
  </div>
</template>
