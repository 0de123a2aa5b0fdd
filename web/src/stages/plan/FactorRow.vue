<script setup lang="ts">
/** One factor: its name, its levels, and whether it is too hard to change from sample to sample. */
import { nextTick, ref } from "vue";

import { level, type Factor } from "./fresh";
import { linesOf } from "./lists";
import type { PlanAtWork } from "./usePlan";
import PlanText from "./PlanText.vue";
import ProblemText from "@/parts/ProblemText.vue";
import TakeOut from "@/parts/TakeOut.vue";

const one = defineModel<Factor>({ required: true });
const props = defineProps<{ place: number; work: PlanAtWork }>();
const emit = defineEmits<{ out: []; rename: [change: () => void] }>();
const at = (part: string) => `factors.${props.place}.${part}`;
const row = ref<HTMLElement>();
/** A pasted list of levels: lines, or names between commas; it fills what is empty first. */
function pasted(event: ClipboardEvent, place: number): void {
  const text = event.clipboardData?.getData("text").trim() ?? "";
  const names = text.includes("\n") ? linesOf(text).map((line) => line.name) : text.split(/\s*,\s*/);
  if (names.length < 2) return;
  event.preventDefault();
  const levels = one.value.levels;
  const free = levels.slice(place).findIndex((step) => step.name.trim());
  levels.splice(
    place,
    free < 0 ? levels.length - place : free,
    ...names.map((name) => ({ ...level(), name })),
  );
}
/** Enter goes on to the next level, and makes room for it. */
async function goOn(place: number): Promise<void> {
  if (place === one.value.levels.length - 1) one.value.levels.push(level());
  await nextTick();
  row.value?.querySelectorAll<HTMLInputElement>("[data-levels] input")[place + 1]?.focus();
}
</script>

<template>
  <li ref="row" class="border-l-4 border-ink pl-3">
    <div
      class="grid grid-cols-[minmax(0,1fr)_44px] items-start gap-2 sm:grid-cols-[minmax(0,12rem)_1fr_44px]"
    >
      <PlanText
        v-model="one.name"
        :at="at('name')"
        :label="`Name of factor ${place + 1}`"
        placeholder="what is varied: soil, dose"
        :work="work"
      />
      <label class="flex min-h-11 items-center gap-2 max-sm:order-last max-sm:col-span-2"
        ><input v-model="one.hard" type="checkbox" class="h-6 w-6 flex-none accent-ink" /> hard to change:
        given to whole plots</label
      >
      <TakeOut :what="one.name || `factor ${place + 1}`" @out="emit('out')" />
    </div>
    <div data-levels class="mt-2 flex flex-wrap items-start gap-2">
      <div v-for="(step, j) in one.levels" :key="step.key" class="flex items-start">
        <PlanText
          :model-value="step.name"
          class="w-36"
          :at="at(`levels.${j}.name`)"
          :label="`Level ${j + 1} of ${one.name || 'the factor'}`"
          :placeholder="`level ${j + 1}`"
          :work="work"
          @keydown.enter.prevent="goOn(j)"
          @paste="pasted($event, j)"
          @update:model-value="(name: string) => emit('rename', () => (step.name = name))"
        />
        <TakeOut :what="step.name || `level ${j + 1}`" @out="one.levels.splice(j, 1)" />
      </div>
      <button type="button" class="quiet" data-adds @click="one.levels.push(level())">Add a level</button>
    </div>
    <ProblemText :says="work.says(at('levels'))" />
  </li>
</template>
