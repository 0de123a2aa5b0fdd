<script setup lang="ts">
/** A field with its label above it and the sentence about it below. */
import { useId } from "vue";

import ProblemText from "./ProblemText.vue";

const model = defineModel<string>({ required: true });
defineProps<{
  label: string;
  type?: string;
  autocomplete?: string;
  says?: string;
  hint?: string;
  placeholder?: string;
}>();
const id = useId();
</script>

<template>
  <div>
    <label :for="id" class="mb-1 block font-bold">{{ label }}</label>
    <input
      :id="id"
      v-model="model"
      class="field"
      :type="type ?? 'text'"
      :autocomplete="autocomplete"
      :placeholder="placeholder"
      :aria-invalid="says ? 'true' : undefined"
      :aria-describedby="says ? `${id}-says` : hint ? `${id}-hint` : undefined"
    />
    <p v-if="hint && !says" :id="`${id}-hint`" class="mt-1 text-soft">{{ hint }}</p>
    <ProblemText :id="`${id}-says`" :says="says" />
  </div>
</template>
