<script setup lang="ts">
import { shake } from "@/parts/device";
/** A count tapped up one by one: a pad as large as a thumb needs, a step back, and the number itself to type
 * over.
 */
import { computed, ref, useId, watch } from "vue";

import ProblemText from "@/parts/ProblemText.vue";
import TallyStrokes from "@/parts/TallyStrokes.vue";
import { type Scale } from "@/parts/amounts";
import { typed } from "@/parts/typed";

const props = defineProps<{ scale: Extract<Scale, { kind: "count" }>; name: string; value: number | null }>();
const emit = defineEmits<{ give: [value: number] }>();
const text = ref("0");
const says = ref("");
watch(
  () => props.value,
  (value) => {
    text.value = String(value ?? 0);
    says.value = "";
  },
  { immediate: true },
);
const count = computed(() => (Number.isInteger(Number(text.value)) ? Number(text.value) : 0));
const full = computed(() => props.scale.of !== null && count.value >= props.scale.of);
function by(step: number): void {
  text.value = String(
    Math.max(0, props.scale.of === null ? count.value + step : Math.min(props.scale.of, count.value + step)),
  );
  says.value = "";
  if (step > 0) shake(12);
}
function keep(): void {
  const value = typed(text.value, props.scale);
  if (typeof value === "string") says.value = value;
  else emit("give", value);
}
const told = useId();
</script>

<template>
  <form class="flex flex-col gap-3" @submit.prevent="keep">
    <div class="flex items-center justify-between gap-3 border-b-[3px] border-ink bg-ground px-4 py-1">
      <label class="flex items-baseline gap-2"
        ><span class="sr-only">{{ name }}</span
        ><input
          v-model="text"
          class="code w-28 bg-transparent text-[3rem] leading-tight outline-none"
          inputmode="numeric"
          autocomplete="off"
          :aria-invalid="says ? 'true' : undefined"
          :aria-describedby="told"
        /><span class="text-[1.2rem]">{{ scale.of ? `of ${scale.of}` : "" }} {{ scale.what }}</span></label
      >
      <button
        type="button"
        class="press press-small min-h-[56px] min-w-[56px] text-[1.5rem]"
        aria-label="One fewer"
        :disabled="!count"
        @click="by(-1)"
      >
        −1
      </button>
    </div>
    <TallyStrokes v-if="count > 0 && count <= 60" :solid="count" :label="`${count} counted`" :height="28" />
    <ProblemText :id="told" :says="says" />
    <button
      type="button"
      class="press min-h-[120px] grow text-[2.4rem] lying:min-h-[72px]"
      aria-label="One more"
      :disabled="full"
      @click="by(1)"
    >
      +1
    </button>
    <button class="press press-main min-h-[64px] text-[1.15rem] lying:min-h-[52px]">Keep {{ text }}</button>
  </form>
</template>
