<script setup lang="ts">
/** A text of the plan, with the sentence about it, and a warning where scorers would read a treatment's name.
 */
import { useId } from "vue";

import type { PlanAtWork } from "./usePlan";
import ProblemText from "@/parts/ProblemText.vue";

const model = defineModel<string>({ required: true });
defineProps<{
  at: string;
  label: string;
  work: PlanAtWork;
  placeholder?: string;
  heading?: boolean;
  area?: boolean;
  shown?: boolean;
}>();
const id = useId();
</script>

<template>
  <div>
    <label v-if="shown" :for="id" class="mb-1 block text-[0.9rem] text-soft">{{ label }}</label>
    <component
      :is="area ? 'textarea' : 'input'"
      :id="id"
      :value="model"
      :aria-label="shown ? undefined : label"
      class="field block"
      :class="{ 'bg-transparent px-0 text-[1.35rem] font-bold sm:text-[1.75rem]': heading }"
      :rows="area ? 2 : undefined"
      :placeholder="placeholder"
      :aria-invalid="work.says(at) ? 'true' : undefined"
      :aria-describedby="`${id}-says`"
      autocomplete="off"
      @input="(event: Event) => (model = (event.target as HTMLInputElement).value)"
    />
    <ProblemText :id="`${id}-says`" :says="work.says(at)" />
    <p v-if="work.leak(at)" class="mt-1 text-[0.92rem]">{{ work.leak(at) }}</p>
  </div>
</template>
