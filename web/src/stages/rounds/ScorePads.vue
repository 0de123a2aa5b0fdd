<script setup lang="ts">
/** What a score is given with: pads for grades and pass or fail, a field for numbers. */
import { computed, onMounted, onUnmounted, ref, watch } from "vue";

import type { Outcome } from "./useRound";
import ProblemText from "@/parts/ProblemText.vue";
import { typed, unitOf } from "@/parts/amounts";

const props = defineProps<{ outcome: Outcome; value: number | null }>();
const emit = defineEmits<{ give: [value: number] }>();

const pads = computed(() => {
  const scale = props.outcome.scale;
  if (scale.kind === "grade")
    return [...scale.levels].reverse().map((level) => ({ value: level.value, key: level.label, label: level.label, words: level.anchor }));
  if (scale.kind === "passfail")
    return [
      { value: 1, key: "1", label: scale.pass_word, words: "" },
      { value: 0, key: "0", label: scale.fail_word, words: "" },
    ];
  return null;
});
const vFocus = { mounted: (input: HTMLInputElement) => input.focus() };
const text = ref("");
const says = ref("");
watch(() => [props.outcome, props.value], () => { text.value = props.value === null ? "" : String(props.value); says.value = ""; }, { immediate: true });

function submit(): void {
  const value = typed(text.value, props.outcome.scale);
  if (typeof value === "string") says.value = value;
  else emit("give", value);
}
function press(event: KeyboardEvent): void {
  if (event.ctrlKey || event.metaKey || event.altKey || (event.target as HTMLElement).closest("input, textarea, [role=dialog]")) return;
  const pad = pads.value?.find((one) => one.key.toLowerCase() === event.key.toLowerCase());
  if (pad) {
    event.preventDefault();
    emit("give", pad.value);
  }
}
onMounted(() => window.addEventListener("keydown", press));
onUnmounted(() => window.removeEventListener("keydown", press));
</script>

<template>
  <div v-if="pads" class="grid auto-rows-fr gap-2" role="group" :aria-label="outcome.name">
    <button v-for="pad in pads" :key="pad.value" class="pad" :class="{ given: pad.value === value }" :aria-pressed="pad.value === value" @click="emit('give', pad.value)">
      <span class="label" :class="{ alone: !pad.words }">{{ pad.label }}</span>
      <span v-if="pad.words" class="text-left">{{ pad.words }}</span>
    </button>
  </div>
  <form v-else class="flex flex-col gap-3" @submit.prevent="submit">
    <label class="flex items-baseline gap-3 border-b-[3px] border-ink bg-ground px-4 py-2">
      <span class="sr-only">{{ outcome.name }}</span>
      <input v-model="text" v-focus class="code w-full min-w-0 bg-transparent text-[3rem] leading-tight outline-none" inputmode="decimal" autocomplete="off" enterkeyhint="next" :aria-invalid="says ? 'true' : undefined" />
      <span class="text-[1.4rem] whitespace-nowrap">{{ unitOf(outcome.scale) }}</span>
    </label>
    <ProblemText :says="says" />
    <button class="press press-main min-h-[64px] text-[1.15rem]">Keep it</button>
  </form>
</template>

<style scoped>
.pad { display: flex; align-items: center; gap: 1.1rem; min-height: 60px; padding: 0.4rem 1rem; border: 2px solid var(--line); background: var(--sheet); }
.pad .label { font-size: 1.6rem; font-weight: 700; min-width: 1.2rem; }
.pad .alone { margin: auto; }
.pad:active, .given { background: var(--ink); color: var(--sheet); border-color: var(--ink); }
</style>
