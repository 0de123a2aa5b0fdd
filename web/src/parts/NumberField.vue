<script setup lang="ts">
/** A number as people type it; empty is none. */
import { ref, useId, watch } from "vue";

import ProblemText from "./ProblemText.vue";

const model = defineModel<number | null>({ required: true });
const props = defineProps<{
  label: string;
  hideLabel?: boolean;
  unit?: string;
  says?: string;
  placeholder?: string;
  whole?: boolean;
  needed?: boolean;
}>();
const id = useId();
const text = ref("");
const own = ref("");
const parsed = () =>
  Number(
    text.value
      .trim()
      .replace("−", "-")
      .replace(/^(-?\d+),(\d+)$/, "$1.$2"),
  );
watch(
  model,
  (value) => {
    if (value !== parsed() || !text.value) text.value = value === null ? "" : String(value);
  },
  { immediate: true },
);

function change(): void {
  own.value = "";
  if (!text.value.trim()) {
    if (props.needed) own.value = "A number is needed here.";
    else model.value = null;
    return;
  }
  const value = parsed();
  if (!Number.isFinite(value)) own.value = "This is not a number.";
  else if (props.whole && !Number.isInteger(value)) own.value = "A whole number, please.";
  else model.value = value;
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
        inputmode="decimal"
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
