<script setup lang="ts">
/** What the treatments cost, side by side: bars for one sample, with the figures beside them. */
import { computed } from "vue";

import type { Schemas } from "@/shell/api/client";
import WideTable from "@/parts/WideTable.vue";

const props = defineProps<{ mixes: Schemas["MixOut"][]; money: string; sampleWord: string }>();
const rows = computed(() =>
  props.mixes.filter((one) => one.steps.some((step) => step.kind === "measure" || step.kind === "handle")),
);
const most = computed(() => Math.max(1e-9, ...rows.value.map((one) => one.costs?.sample ?? 0)));
const per = computed(() => rows.value.find((one) => one.costs?.per)?.costs?.per ?? "");
const uses = computed(() => rows.value.some((one) => one.costs && one.costs.use !== one.costs.sample));
const told = (value: number | null | undefined) =>
  value === null || value === undefined
    ? ""
    : `${props.money}${value >= 0.0995 || value === 0 ? value.toFixed(2) : Number(value.toPrecision(2)).toString().padEnd(4, "0")}`;
</script>

<template>
  <section v-if="rows.some((one) => one.costs)" class="min-w-0">
    <h2 class="border-b-2 border-ink pb-1">What each costs</h2>
    <WideTable label="What each costs">
      <table class="figures">
        <thead>
          <tr>
            <th scope="col">Treatment</th>
            <th scope="col" class="w-2/5">For one {{ sampleWord }}</th>
            <th v-if="uses" scope="col" class="number">One use</th>
            <th v-if="per" scope="col" class="number">For 1 {{ per }}</th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="one in rows" :key="one.letter">
            <th scope="row" class="whitespace-normal">
              <span class="code mr-1">{{ one.letter }}</span> {{ one.name }}
            </th>
            <td>
              <span v-if="one.costs" class="flex items-center gap-2">
                <svg
                  viewBox="0 0 100 14"
                  preserveAspectRatio="none"
                  class="h-3.5 min-w-10 grow"
                  aria-hidden="true"
                >
                  <rect width="100" height="14" fill="none" />
                  <rect y="1" height="12" :width="(100 * one.costs.sample) / most" fill="var(--ink)" />
                </svg>
                <span class="w-16 flex-none text-right tabular-nums">{{ told(one.costs.sample) }}</span>
              </span>
              <span v-else class="text-soft">a price is missing</span>
            </td>
            <td v-if="uses" class="number">{{ told(one.costs?.use) }}</td>
            <td v-if="per" class="number">{{ told(one.costs?.size) }}</td>
          </tr>
        </tbody>
      </table>
    </WideTable>
  </section>
</template>
