<script setup lang="ts">
/** A chart of shades in order, each a swatch or only a name. */
import PlanText from "./PlanText.vue";
import type { Scale } from "./fresh";
import type { PlanAtWork } from "./usePlan";
import ProblemText from "@/parts/ProblemText.vue";
import TakeOut from "@/parts/TakeOut.vue";

const scale = defineModel<Extract<Scale, { kind: "shade" }>>({ required: true });
const props = defineProps<{ at: string; work: PlanAtWork }>();
const add = () => scale.value.steps.push({ label: String(scale.value.steps.length + 1), swatch: "" });
const wrong = (i: number) => props.work.says(`${props.at}.steps.${i}.swatch`);
</script>

<template>
  <div>
    <div class="flex flex-wrap items-center justify-between gap-x-4">
      <span class="text-[0.9rem] text-soft">Steps of the chart, from one end to the other</span>
      <label class="flex min-h-11 items-center gap-2"
        ><input v-model="scale.between" type="checkbox" class="h-5 w-5 accent-ink" /> half way between two
        counts</label
      >
    </div>
    <ol class="grid gap-1.5">
      <li
        v-for="(step, i) in scale.steps"
        :key="i"
        class="grid grid-cols-[1.6rem_56px_1fr_44px] items-center gap-2"
      >
        <span class="code">{{ i + 1 }}</span>
        <input
          v-if="step.swatch"
          v-model="step.swatch"
          type="color"
          class="h-[46px] w-full border-2 border-ink bg-transparent p-0"
          :aria-label="`Colour of step ${i + 1}`"
        />
        <button
          v-else
          type="button"
          class="h-[46px] border-2 border-dashed border-line text-[0.8rem]"
          :aria-label="`Give step ${i + 1} a colour`"
          @click="step.swatch = '#bf9b4e'"
        >
          none
        </button>
        <PlanText
          v-model="step.label"
          :at="`${at}.steps.${i}.label`"
          :label="`Name of step ${i + 1}`"
          :work="work"
        />
        <TakeOut :what="`step ${i + 1}`" @out="scale.steps.splice(i, 1)" />
        <ProblemText class="col-span-4" :says="wrong(i)" />
      </li>
    </ol>
    <button type="button" class="press press-small mt-2" data-adds @click="add">Add a step</button>
    <ProblemText :says="work.says(`${at}.steps`)" />
  </div>
</template>
