<script setup lang="ts">
/** An amount as people write it, echoed back in full as it was understood. */
import { onUnmounted, ref, useId, watch } from "vue";

import BenchDrawer from "./BenchDrawer.vue";
import ProblemText from "./ProblemText.vue";
import { answer, api, type Schemas } from "@/shell/api/client";
import { Declined } from "@/shell/api/problems";

const model = defineModel<string>({ required: true });
const props = defineProps<{
  label: string;
  hideLabel?: boolean;
  wants: Schemas["UnderstoodIn"]["wants"];
  system?: Schemas["UnderstoodIn"]["system"];
  says?: string;
  placeholder?: string;
  /** The bench sum to lay out first, where the amount may be worked out. */
  bench?: string;
}>();
const ASK_AFTER = 250;
const id = useId();
const echo = ref("");
const wrong = ref("");
const left = ref(false);
let timer = 0;
let asked = 0;
async function ask(): Promise<void> {
  const turn = ++asked;
  const text = model.value.trim();
  if (!text) {
    [echo.value, wrong.value] = ["", ""];
    return;
  }
  try {
    const found = await answer(
      api.POST("/api/understood", { body: { text, wants: props.wants, system: props.system ?? "metric" } }),
    );
    if (turn === asked) [echo.value, wrong.value] = [found.echo, ""];
  } catch (error) {
    // Without a network what was typed still stands; only the echo is missing.
    if (turn === asked) [echo.value, wrong.value] = ["", error instanceof Declined ? error.message : ""];
  }
}
watch(
  () => [model.value, props.wants, props.system],
  (_, before) => {
    window.clearTimeout(timer);
    timer = window.setTimeout(() => void ask(), before ? ASK_AFTER : 0);
  },
  { immediate: true },
);
onUnmounted(() => window.clearTimeout(timer));
</script>

<template>
  <div>
    <label :for="id" :class="hideLabel ? 'sr-only' : 'mb-1 block text-[0.9rem] text-soft'">{{ label }}</label>
    <input
      :id="id"
      v-model="model"
      class="field"
      autocomplete="off"
      :placeholder="placeholder"
      :aria-invalid="says || (left && wrong) ? 'true' : undefined"
      :aria-describedby="`${id}-echo`"
      @blur="left = true"
    />
    <p v-if="echo && !says" :id="`${id}-echo`" class="mt-1 text-[0.92rem] text-soft">{{ echo }}</p>
    <ProblemText v-else :id="`${id}-echo`" :says="says ?? (left ? wrong : '')" />
    <BenchDrawer
      v-if="bench && !echo"
      class="-ml-2"
      :field="label"
      :begin="bench"
      :system="system"
      @take="(found) => (model = found.text)"
    />
  </div>
</template>
