<script setup lang="ts">
/** What a panel found: said, shown against what chance gives, and tabulated. */
import { useQuery } from "@tanstack/vue-query";
import { computed } from "vue";

import ChanceChart from "./ChanceChart.vue";
import NothingHere from "@/parts/NothingHere.vue";
import { honest } from "@/parts/amounts";
import { answer, api, type Schemas } from "@/shell/api/client";
import { problemsOf } from "@/shell/api/problems";

const props = defineProps<{ id: string }>();
const { data, error } = useQuery({ queryKey: ["panel-result", computed(() => props.id)], queryFn: () => answer(api.GET("/api/panels/{panel_id}/result", { params: { path: { panel_id: props.id } } })) });
const finding = computed(() => data.value?.finding);
const percent = (share: number) => `${Math.round(share * 100)} %`;
const p = (value: number) => (value < 0.0001 ? "under 0.0001" : honest(value, 2));
const nameOf = (letter: string) => data.value?.things.find((one) => one.letter === letter)?.name ?? "no preference";
const groups = computed(() => {
  const found = finding.value;
  return found ? [{ name: "By experience", parts: found.experience }, { name: "By place of the right cup", parts: found.places }, { name: "By session", parts: found.sessions }].filter((one) => one.parts.length > 1) : [];
});
/** Letters by what they stand for, and no number torn from its sign. */
const sentence = computed(() => {
  const told = (finding.value?.sentence ?? "").replace(/(\d) %/g, "$1\u00a0%");
  return ["preference", "ranking"].includes(data.value?.plan.method ?? "") ? told.replace(/\b([A-P])(?= better| stands|,|\.|$)/g, (letter: string) => nameOf(letter)) : told;
});
const RULES: Record<Schemas["Preferred"]["rule"], string> = { drop: "those without one left out", split: "those without one shared", third: "those without one counted apart" };
</script>

<template>
  <NothingHere v-if="error" :says="problemsOf(error)[0]!.says" />
  <article v-else-if="data && finding">
    <h1 class="mt-2 max-w-4xl text-[1.7rem] leading-tight lg:text-[2.1rem]">{{ sentence }}</h1>
    <p class="mt-2 text-soft">{{ data.plan.title }}: {{ data.things.map((one) => `${one.letter} ${one.name}`).join(", ") }}</p>
    <p v-if="finding.settle" class="mt-2">About {{ finding.settle }} judgements would probably settle it, if as many notice as it looked here.</p>
    <p v-if="data.with_all" class="mt-2">Without {{ finding.left_out.map((one) => `${one[0]} (${one[1]})`).join(", ") }}. With everybody counted: {{ data.with_all.sentence }}</p>
    <p v-if="finding.persons?.too_hopeful" class="mt-2 border-l-4 border-ink pl-3 font-bold">The plain count is too hopeful here: several judgements of one person are not several people. By person p is {{ p(finding.persons.p) }}.</p>
    <ChanceChart v-if="finding.found" class="mt-6" :chance="finding.chance" :found="finding.found" />
    <table v-if="finding.found" class="figures mt-6 max-w-3xl">
      <thead><tr><th scope="col">What</th><th class="number" scope="col">Value</th><th class="number" scope="col">between</th></tr></thead>
      <tbody>
        <tr><th scope="row">Right answers</th><td class="number">{{ percent(finding.found.right.value) }}</td><td class="number">{{ percent(finding.found.right.low) }} and {{ percent(finding.found.right.high) }}</td></tr>
        <tr><th scope="row">People who truly notice</th><td class="number">{{ percent(finding.found.pd.value) }}</td><td class="number">{{ percent(finding.found.pd.low) }} and {{ percent(finding.found.pd.high) }}</td></tr>
        <tr><th scope="row">Size of the difference, d′</th><td class="number">{{ honest(finding.found.dprime.value, 3) }}</td><td class="number">{{ honest(finding.found.dprime.low, 3) }} and {{ finding.found.dprime.high === null || !Number.isFinite(finding.found.dprime.high) ? "no end" : honest(finding.found.dprime.high, 3) }}</td></tr>
        <tr><th scope="row">Chance of so many by guessing, exact</th><td class="number">p = {{ p(finding.found.p) }}</td><td /></tr>
        <tr v-if="finding.persons"><th scope="row">The same by person ({{ finding.persons.persons }} people)</th><td class="number">p = {{ p(finding.persons.p) }}</td><td class="number">{{ percent(finding.persons.pd.low) }} and {{ percent(finding.persons.pd.high) }} notice</td></tr>
      </tbody>
    </table>
    <div class="mt-6 grid gap-6 lg:grid-cols-2">
      <section v-for="group in groups" :key="group.name"><h2>{{ group.name }}</h2><table class="figures mt-1"><tbody><tr v-for="part in group.parts" :key="part.name"><th scope="row">{{ part.name }}</th><td class="number">{{ part.right }} of {{ part.n }} right</td></tr></tbody></table></section>
      <section v-if="finding.preference">
        <h2>Preference</h2>
        <table class="figures mt-1"><thead><tr><th scope="col">Among</th><th class="number" scope="col">A</th><th class="number" scope="col">B</th><th class="number" scope="col">none</th><th class="number" scope="col">p</th></tr></thead><tbody>
          <tr v-for="one in finding.preference.everybody" :key="`a${one.rule}`"><th scope="row">all, {{ RULES[one.rule] }}</th><td class="number">{{ one.first }}</td><td class="number">{{ one.second }}</td><td class="number">{{ one.none }}</td><td class="number">{{ p(one.p) }}</td></tr>
          <tr v-for="one in finding.preference.those_right" :key="`r${one.rule}`"><th scope="row">those who were right, {{ RULES[one.rule] }}</th><td class="number">{{ one.first }}</td><td class="number">{{ one.second }}</td><td class="number">{{ one.none }}</td><td class="number">{{ p(one.p) }}</td></tr>
        </tbody></table>
      </section>
      <section v-if="finding.named"><h2>What each was called</h2><table class="figures mt-1"><thead><tr><th scope="col">Truly</th><th v-for="thing in data.things" :key="thing.letter" class="number" scope="col">called {{ thing.name }}</th></tr></thead><tbody><tr v-for="(row, i) in finding.named.table" :key="i"><th scope="row">{{ data.things[i]?.name }}</th><td v-for="(many, j) in row" :key="j" class="number" :class="{ 'font-bold': i === j }">{{ many }}</td></tr></tbody></table><p class="mt-1 text-soft">p = {{ p(finding.named.p) }} {{ data.plan.each_once ? "with each name used once" : "with names chosen freely" }}.</p></section>
      <section v-if="finding.ranked"><h2>Mean rank</h2><table class="figures mt-1"><tbody><tr v-for="(mean, i) in finding.ranked.means" :key="i"><th scope="row">{{ data.things[i]?.name }}</th><td class="number">{{ honest(mean, 3) }}</td></tr></tbody></table><p class="mt-1 text-soft">Friedman, p = {{ p(finding.ranked.p) }}; W = {{ honest(finding.ranked.agreement, 2) }}.</p></section>
      <section v-if="Object.keys(finding.words).length"><h2>Words</h2><dl class="mt-1 grid gap-1"><div v-for="(own, side) in finding.words" :key="side"><dt class="font-bold">{{ nameOf(side) }}</dt><dd>{{ Object.entries(own).map(([word, many]) => `${word} ${many}`).join(", ") }}</dd></div></dl></section>
    </div>
  </article>
</template>
