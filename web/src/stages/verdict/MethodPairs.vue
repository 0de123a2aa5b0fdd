<script setup lang="ts">
/** Methods of measuring against each other, two at a time, and each against what is known of the samples. */
import { computed, ref } from "vue";

import AgreeChart from "@/charts/AgreeChart.vue";
import { honest } from "@/parts/amounts";
import WideTable from "@/parts/WideTable.vue";
import type { Schemas } from "@/shell/api/client";

const props = defineProps<{ found: Schemas["MethodsCompared"] }>();
const chosen = ref(0);
const pair = computed(() => props.found.pairs[chosen.value] ?? props.found.pairs[0]);
const share = (one: Schemas["OfMany"] | null) => (one ? `${one.many} of ${one.of}` : "–");
const between = (one: Schemas["OfMany"] | null) =>
  one ? `${Math.round(100 * one.low)} to ${Math.round(100 * one.high)} in 100` : "";
const withUnit = (value: number) => `${honest(value, 3)} ${props.found.unit}`.trim();
</script>

<template>
  <div v-if="pair">
    <div v-if="found.pairs.length > 1" class="mb-3 flex flex-wrap gap-2" role="group" aria-label="Pairs">
      <button
        v-for="(one, i) in found.pairs"
        :key="one.a + one.b"
        type="button"
        class="press press-small"
        :class="{ 'press-main': one === pair }"
        :aria-pressed="one === pair"
        @click="chosen = i"
      >
        {{ one.a }} and {{ one.b }}
      </button>
    </div>
    <p class="max-w-4xl text-[1.45rem] leading-tight font-bold">{{ pair.says }}</p>
    <p v-if="pair.limit && !pair.bias" class="mt-3">
      Apart in {{ share(pair.limit.apart) }}, {{ between(pair.limit.apart) }} of all such samples; that one of
      them fails more often: p {{ honest(pair.limit.p, 2) }}.
    </p>
    <div v-if="pair.bias && pair.lower && pair.upper" class="mt-5 grid gap-x-10 gap-y-6 xl:grid-cols-2">
      <AgreeChart :pair="pair" :unit="found.unit" />
      <div class="min-w-0 overflow-x-auto" tabindex="0" role="region" aria-label="Figures">
        <WideTable
          ><table class="figures">
            <thead>
              <tr>
                <th scope="col">{{ pair.a }} − {{ pair.b }}, {{ pair.n }} samples</th>
                <th scope="col" class="number">Value</th>
                <th scope="col" class="number">95 in 100 between</th>
              </tr>
            </thead>
            <tbody>
              <tr
                v-for="one in [
                  { name: 'Bias', found: pair.bias },
                  { name: 'Lower limit', found: pair.lower },
                  { name: 'Upper limit', found: pair.upper },
                ]"
                :key="one.name"
              >
                <th scope="row">{{ one.name }}</th>
                <td class="number">{{ withUnit(one.found.value) }}</td>
                <td class="number">{{ honest(one.found.low, 3) }} and {{ honest(one.found.high, 3) }}</td>
              </tr>
              <tr v-if="pair.icc !== null">
                <th scope="row">Alike (ICC 2,1)</th>
                <td class="number">{{ honest(pair.icc, 2) }}</td>
                <td />
              </tr>
              <tr v-if="pair.slope_p !== null">
                <th scope="row">Gap per unit more</th>
                <td class="number">
                  {{ honest(pair.slope!, 2) }}, p
                  {{ pair.slope_p < 0.001 ? "below 0.001" : honest(pair.slope_p, 2) }}
                </td>
                <td />
              </tr>
            </tbody></table
        ></WideTable>
        <template v-if="pair.limit"
          ><h2 class="mt-4">Pass or fail at {{ withUnit(found.limit!) }}</h2>
          <p class="mt-1">
            They disagree on {{ share(pair.limit.apart) }} ({{ between(pair.limit.apart) }}):
            {{ pair.limit.only_a }} fail by {{ pair.a }} alone, {{ pair.limit.only_b }} by {{ pair.b }} alone
            (p {{ honest(pair.limit.p, 2) }}).
          </p></template
        >
      </div>
    </div>
    <template v-if="found.against_truth.length">
      <h2 class="mt-6">Against what is really there</h2>
      <ul class="mt-1 grid gap-1">
        <li v-for="one in found.against_truth" :key="one.method">{{ one.says }}</li>
      </ul>
      <WideTable label="Against the truth" class="mt-2">
        <table class="figures">
          <thead>
            <tr>
              <th scope="col">Method</th>
              <th scope="col" class="number">False alarms on blanks</th>
              <th scope="col" class="number">Misses</th>
              <th scope="col" class="number">Reacts to the wrong substance</th>
              <th scope="col" class="number">Off by, mean</th>
            </tr>
          </thead>
          <tbody>
            <tr v-for="one in found.against_truth" :key="one.method">
              <th scope="row">{{ one.method }}</th>
              <td class="number">{{ share(one.alarms) }}</td>
              <td class="number">{{ share(one.misses) }}</td>
              <td class="number">{{ share(one.wrong) }}</td>
              <td class="number">{{ one.bias ? withUnit(one.bias.value) : "–" }}</td>
            </tr>
          </tbody>
        </table>
      </WideTable>
    </template>
  </div>
</template>
