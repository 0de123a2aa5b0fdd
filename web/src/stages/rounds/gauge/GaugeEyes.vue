<script setup lang="ts">
/** How well the gauge repeats, and how the eye compares with it on the same samples. */
import AgreeChart from "@/charts/AgreeChart.vue";
import { honest } from "@/parts/amounts";
import type { Schemas } from "@/shell/api/client";
import WideTable from "@/parts/WideTable.vue";

defineProps<{ table: Schemas["GaugeTable"] }>();
</script>

<template>
  <section
    v-if="table.repeats || table.eyes.length"
    class="mt-8 border-t-2 border-ink pt-3"
    aria-label="Repeats and the eye"
  >
    <template v-if="table.repeats">
      <h2>Two photos of one thing differ by up to {{ honest(table.repeats.within, 2) }} {{ table.unit }}</h2>
      <p class="mt-1 max-w-3xl">
        95 times in 100, from {{ table.repeats.samples }} samples that were photographed more than once ({{
          table.repeats.photos
        }}
        photos). A single photo has a standard deviation of {{ honest(table.repeats.deviation, 2) }}
        {{ table.unit }}.
      </p>
    </template>
    <p v-else class="max-w-3xl text-soft">
      Take some samples twice: then it can be told how well the gauge repeats.
    </p>
    <div v-for="one in table.eyes" :key="one.outcome" class="mt-6">
      <h2>Beside the eye: {{ one.outcome }}</h2>
      <p v-if="one.rank !== null" class="mt-1 max-w-3xl">
        {{
          one.rank > 0.7
            ? "Eye and gauge put the samples in much the same order"
            : one.rank > 0.3
              ? "Eye and gauge agree on the order only in part"
              : "Eye and gauge do not agree on the order"
        }}
        (Spearman {{ honest(one.rank, 2) }}, {{ one.codes.length }} samples).
      </p>
      <template v-if="one.against">
        <p class="mt-1 max-w-3xl">{{ one.against.says }}</p>
        <AgreeChart class="mt-3 max-w-2xl" :pair="one.against" :unit="one.unit" />
      </template>
      <details class="mt-2">
        <summary class="quiet inline-flex items-center">Every sample</summary>
        <WideTable class="mt-2"
          ><table class="figures max-w-xl">
            <thead>
              <tr>
                <th scope="col">Code</th>
                <th scope="col" class="number">By eye, {{ one.unit }}</th>
                <th scope="col" class="number">Gauge, {{ table.unit }}</th>
              </tr>
            </thead>
            <tbody>
              <tr v-for="(code, i) in one.codes" :key="code">
                <th scope="row" class="code">{{ code }}</th>
                <td class="number">{{ honest(one.eye[i]!, 3) }}</td>
                <td class="number">{{ honest(one.gauge[i]!, 3) }}</td>
              </tr>
            </tbody>
          </table></WideTable
        >
      </details>
    </div>
  </section>
</template>
