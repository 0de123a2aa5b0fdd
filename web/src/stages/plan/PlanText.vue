<script setup lang="ts">
/** A text of the plan, with the sentence about it, and a warning where scorers would read a treatment's name. */
import { useId } from "vue";

import type { PlanAtWork } from "./usePlan";
import ProblemText from "@/parts/ProblemText.vue";

const model = defineModel<string>({ required: true });
defineProps<{ at: string; label: string; work: PlanAtWork; placeholder?: string; heading?: boolean }>();
const id = useId();
</script>

<template>
  <div>
    <input
      :id="id"
      v-model="model"
      :aria-label="label"
      class="field"
      :class="{ 'bg-transparent px-0 text-[1.75rem] font-bold': heading }"
      :placeholder="placeholder"
      :aria-invalid="work.says(at) ? 'true' : undefined"
      :aria-describedby="`${id}-says`"
      autocomplete="off"
    />
    <ProblemText :id="`${id}-says`" :says="work.says(at)" />
    <p v-if="work.leak(at)" class="mt-1 text-[0.92rem]">{{ work.leak(at) }}</p>
  </div>
</template>
