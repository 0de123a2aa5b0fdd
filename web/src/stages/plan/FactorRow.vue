<script setup lang="ts">
/** One factor: its name, its levels, and whether it is too hard to change from sample to sample. */
import { level, type Factor } from "./fresh";
import type { PlanAtWork } from "./usePlan";
import PlanText from "./PlanText.vue";
import ProblemText from "@/parts/ProblemText.vue";
import TakeOut from "@/parts/TakeOut.vue";

const one = defineModel<Factor>({ required: true });
const props = defineProps<{ place: number; work: PlanAtWork }>();
const emit = defineEmits<{ out: []; rename: [change: () => void] }>();
const at = (part: string) => `factors.${props.place}.${part}`;
</script>

<template>
  <li class="border-l-4 border-ink pl-3">
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
    <div class="mt-2 flex flex-wrap items-start gap-2">
      <div v-for="(step, j) in one.levels" :key="step.key" class="flex items-start">
        <PlanText
          :model-value="step.name"
          class="w-36"
          :at="at(`levels.${j}.name`)"
          :label="`Level ${j + 1} of ${one.name || 'the factor'}`"
          :placeholder="`level ${j + 1}`"
          :work="work"
          @update:model-value="(name: string) => emit('rename', () => (step.name = name))"
        />
        <TakeOut :what="step.name || `level ${j + 1}`" @out="one.levels.splice(j, 1)" />
      </div>
      <button type="button" class="quiet" data-adds @click="one.levels.push(level())">Add a level</button>
    </div>
    <ProblemText :says="work.says(at('levels'))" />
  </li>
</template>
