<script setup lang="ts" generic="T extends string | null">
/** One of a few, side by side, each with a word on what it means. */
import { useId } from "vue";

const model = defineModel<T>({ required: true });
defineProps<{ legend: string; hideLegend?: boolean; choices: { value: T; name: string; says?: string }[] }>();
const name = useId();
</script>

<template>
  <fieldset class="min-w-0">
    <legend :class="hideLegend ? 'sr-only' : 'mb-1 text-[0.9rem] text-soft'">{{ legend }}</legend>
    <div class="flex flex-wrap gap-2">
      <label
        v-for="one in choices"
        :key="String(one.value)"
        class="choice"
        :class="{ chosen: model === one.value }"
      >
        <input v-model="model" type="radio" :name="name" :value="one.value" class="sr-only" />
        <b>{{ one.name }}</b><span v-if="one.says" class="block text-[0.92rem]">{{ one.says }}</span>
      </label>
    </div>
  </fieldset>
</template>

<style scoped>
.choice {
  flex: 1 1 9rem;
  min-height: 48px;
  padding: 0.5rem 0.8rem;
  border: 2px solid var(--line);
  background: var(--sheet);
  cursor: pointer;
}
.choice span {
  color: var(--soft);
}
.chosen {
  border-color: var(--ink);
  box-shadow: inset 0 -6px 0 var(--ink);
}
.choice:focus-within {
  outline: 3px solid var(--ink);
  outline-offset: 2px;
}
fieldset:disabled .choice {
  cursor: not-allowed;
}
</style>
