<script setup lang="ts">
/** Several numbers in a row, as people type them: separated by spaces, commas with a space, or semicolons. */
import { ref, useId, watch } from "vue";

import ProblemText from "./ProblemText.vue";

const model = defineModel<number[]>({ required: true });
defineProps<{ label: string; unit?: string; says?: string; placeholder?: string; hideLabel?: boolean }>();
const id = useId();
const text = ref("");
const own = ref("");
/** "5, 10; 12,5 15" is 5, 10, 12.5 and 15. */
const parsed = () =>
  text.value
    .replaceAll("−", "-")
    .split(/[;\s]+|,\s+/)
    .filter(Boolean)
    .map((part) => Number(part.replace(/,$/, "").replace(",", ".")));
watch(
  model,
  (values) => {
    if (values.join() !== parsed().join()) text.value = values.join(", ");
  },
  { immediate: true },
);
function change(): void {
  const values = parsed();
  const wrong = values.findIndex((value) => !Number.isFinite(value));
  own.value = wrong < 0 ? "" : "Numbers only, with a space or a comma between them.";
  if (!own.value) model.value = values;
}
</script>

<template>
  <div>
    <label :for="id" :class="hideLabel ? 'sr-only' : 'mb-1 block text-[0.9rem] text-soft'">{{ label }}</label>
    <span class="flex items-baseline">
      <input
        :id="id"
        v-model="text"
        class="field"
        autocomplete="off"
        :placeholder="placeholder"
        :aria-invalid="own || says ? 'true' : undefined"
        :data-unkept="own || undefined"
        :aria-describedby="`${id}-says`"
        @input="change"
      />
      <span v-if="unit" class="-ml-1 flex-none pr-1 pl-2">{{ unit }}</span>
    </span>
    <ProblemText :id="`${id}-says`" :says="own || says" />
  </div>
</template>
