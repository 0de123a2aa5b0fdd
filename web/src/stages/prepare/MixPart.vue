<script setup lang="ts">
import { sure } from "@/parts/sure";
/** The mix sheet: what to do in which order for each treatment, what to buy, and what it costs. */
import { computed } from "vue";

import CostBars from "./CostBars.vue";
import MixStep from "./MixStep.vue";
import PackList from "./PackList.vue";
import BenchDrawer from "@/parts/BenchDrawer.vue";
import CautionList from "@/parts/CautionList.vue";
import NothingHere from "@/parts/NothingHere.vue";
import ProblemText from "@/parts/ProblemText.vue";
import TallyStrokes from "@/parts/TallyStrokes.vue";
import { problemsOf } from "@/shell/api/problems";
import type { Schemas } from "@/shell/api/client";
import { useMix } from "@/shell/query";
import { counted, sampleOf } from "@/parts/nouns";
import WideTable from "@/parts/WideTable.vue";

const props = defineProps<{ id: string; course: Schemas["CourseOut"] }>();
const { data: sheet, error } = useMix(() => props.id);
const steps = computed(() => sheet.value?.mixes.flatMap((mix) => mix.steps) ?? []);
const done = computed(() => steps.value.filter((step) => step.ticked_at).length);
const money = (value: number) => `${sure(sheet.value).money}${value.toFixed(2)}`;
const doneIn = (mix: Schemas["MixOut"]) => mix.steps.filter((step) => step.ticked_at).length;
const sentence = computed(() => {
  if (!sheet.value) return "";
  if (!sheet.value.may_tick) return `${steps.value.length} steps, to be ticked once the plan is sealed.`;
  return done.value === steps.value.length
    ? "All is mixed."
    : `${done.value} of ${steps.value.length} steps done.`;
});
</script>

<template>
  <NothingHere v-if="error" :says="problemsOf(error)[0]!.says" />
  <div v-else-if="sheet">
    <div class="flex flex-wrap items-center justify-between gap-x-6 gap-y-2">
      <p class="text-[1.3rem] leading-snug font-bold">
        {{ sentence }}
        <template v-if="sheet.cost !== null"
          >Packs for all of it cost {{ money(sheet.cost)
          }}{{
            sheet.unpriced.length ? `, without ${sheet.unpriced.join(", ")}, whose price is not known` : ""
          }}.</template
        >
      </p>
      <p class="no-print flex flex-wrap gap-2">
        <BenchDrawer :trial="course.state === 'draft' ? undefined : id" />
        <a class="press press-small" :href="`/api/trials/${id}/prints/mix.pdf`" download>Print, A4</a>
        <a class="press press-small" :href="`/api/trials/${id}/prints/mix.pdf?paper=letter`" download
          >Print, Letter</a
        >
      </p>
    </div>
    <CautionList v-if="sheet.clashes.length" :cautions="[]" :clashes="sheet.clashes" />
    <p v-if="sheet.clashes.length" class="mt-1 text-soft">{{ sheet.defers }}</p>
    <ProblemText v-for="one in sheet.problems" :key="one.at + one.says" :says="one.says" />
    <div class="mt-5 grid gap-x-8 gap-y-7 xl:grid-cols-2">
      <section v-for="mix in sheet.mixes" :key="mix.letter" class="min-w-0" :aria-label="mix.name">
        <div class="flex items-center justify-between gap-4 border-b-2 border-ink pb-1">
          <h2>
            <span class="code mr-2">{{ mix.letter }}</span>{{ mix.name }}
            <span class="font-normal text-soft">{{ counted(mix.samples, sampleOf(course)) }}</span>
          </h2>
          <TallyStrokes
            :solid="doneIn(mix)"
            :rest="mix.steps.length - doneIn(mix)"
            :height="20"
            :label="`${doneIn(mix)} of ${mix.steps.length} steps done`"
          />
        </div>
        <ol>
          <MixStep
            v-for="step in mix.steps"
            :id="id"
            :key="step.key"
            :step="step"
            :may-tick="sheet.may_tick"
            :zone="course.zone"
          />
        </ol>
      </section>
    </div>
    <div class="mt-8 grid gap-x-8 gap-y-7 xl:grid-cols-2">
      <section v-if="sheet.shopping.length" class="min-w-0">
        <h2 class="border-b-2 border-ink pb-1">To buy, in whole packs</h2>
        <WideTable label="To buy">
          <table class="figures">
            <thead>
              <tr>
                <th scope="col">Product</th>
                <th scope="col" class="number">Needed</th>
                <th scope="col" class="number">Packs</th>
                <th scope="col" class="number">Left over</th>
                <th scope="col" class="number">Costs</th>
              </tr>
            </thead>
            <tbody>
              <tr v-for="one in sheet.shopping" :key="one.product">
                <th scope="row" class="whitespace-normal">
                  {{ one.name }}<span v-if="one.problem" class="block text-soft">{{ one.problem }}</span>
                </th>
                <td class="number">{{ one.needed }}</td>
                <td class="number">{{ one.packs === null ? "" : `${one.packs} × ${one.pack}` }}</td>
                <td class="number">{{ one.left }}</td>
                <td class="number">{{ one.cost === null ? "" : money(one.cost) }}</td>
              </tr>
            </tbody>
          </table>
        </WideTable>
      </section>
      <CostBars :mixes="sheet.mixes" :money="sheet.money" :sample-word="course.sample_word" />
    </div>
    <PackList
      v-if="Object.keys(sheet.products).length"
      :id="id"
      class="mt-8"
      :sheet="sheet"
      :zone="course.zone"
    />
  </div>
</template>
