<script setup lang="ts">
/** A share judged by eye, beside a picture of what that share looks like. */
import { computed, ref, useId, watch } from "vue";

import { filledAt } from "./percentGuide";
import ProblemText from "@/parts/ProblemText.vue";
import { type Scale } from "@/parts/amounts";
import { typed } from "@/parts/typed";

const props = defineProps<{
  scale: Extract<Scale, { kind: "percent" }>;
  name: string;
  value: number | null;
}>();
const emit = defineEmits<{ give: [value: number] }>();
const step = computed(() => props.scale.resolution || 1);
const text = ref("");
const says = ref("");
watch(
  () => props.value,
  (value) => {
    text.value = value === null ? "" : String(value);
    says.value = "";
  },
  { immediate: true },
);
const share = computed(() => Math.max(0, Math.min(100, Number(text.value.replace(",", ".")) || 0)));
const cells = computed(() => filledAt(share.value));
const GUIDES = [5, 10, 25, 50, 75];
function keep(): void {
  const value = typed(text.value, props.scale);
  if (typeof value === "string") says.value = value;
  else emit("give", value);
}
const by = (change: number) =>
  (text.value = String(
    Math.max(0, Math.min(100, Math.round((share.value + change) / step.value) * step.value)),
  ));
const told = useId();
</script>

<template>
  <form class="flex flex-col gap-3" @submit.prevent="keep">
    <div
      class="grid grid-cols-[minmax(0,1fr)_8.5rem] items-center gap-4 lying:grid-cols-[minmax(0,1fr)_7rem]"
    >
      <div>
        <label class="flex items-baseline gap-2 border-b-[3px] border-ink bg-ground px-4 py-1"
          ><span class="sr-only">{{ name }}</span
          ><input
            v-model="text"
            class="code w-full min-w-0 bg-transparent text-[3rem] leading-tight outline-none"
            inputmode="decimal"
            autocomplete="off"
            :aria-invalid="says ? 'true' : undefined"
            :aria-describedby="told"
          /><span class="text-[1.6rem]">%</span></label
        >
        <div class="mt-2 grid grid-cols-2 gap-2">
          <button type="button" class="press min-h-[56px]" :aria-label="`${step} less`" @click="by(-step)">
            −{{ step }}
          </button>
          <button type="button" class="press min-h-[56px]" :aria-label="`${step} more`" @click="by(step)">
            +{{ step }}
          </button>
        </div>
      </div>
      <svg viewBox="0 0 100 100" class="w-full" role="img" :aria-label="`What ${share} % looks like`">
        <rect width="100" height="100" fill="none" stroke="var(--ink)" stroke-width="2" />
        <rect
          v-for="cell in cells"
          :key="cell.key"
          :x="cell.x * 10 + 1"
          :y="cell.y * 10 + 1"
          width="8"
          height="8"
          fill="var(--ink)"
        />
      </svg>
    </div>
    <ul class="grid grid-cols-5 gap-2 lying:gap-1" aria-label="Guides">
      <li v-for="guide in GUIDES" :key="guide">
        <button
          type="button"
          class="w-full border-2 border-line p-1"
          :aria-label="`Like this: ${guide} %`"
          @click="text = String(guide)"
        >
          <svg viewBox="0 0 100 100" class="w-full lying:mx-auto lying:w-9" aria-hidden="true">
            <rect
              v-for="cell in filledAt(guide)"
              :key="cell.key"
              :x="cell.x * 10 + 1"
              :y="cell.y * 10 + 1"
              width="8"
              height="8"
              fill="var(--ink)"
            /></svg
          ><span class="text-[0.9rem]">{{ guide }} %</span>
        </button>
      </li>
    </ul>
    <ProblemText :id="told" :says="says" />
    <button class="press press-main min-h-[64px] text-[1.15rem] lying:min-h-[52px]">Keep it</button>
  </form>
</template>
