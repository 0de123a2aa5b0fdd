<script setup lang="ts">
/** The responses of a curve, a field for each step. */
import { ref, watch } from "vue";

import NumberField from "@/parts/NumberField.vue";
import ProblemText from "@/parts/ProblemText.vue";
import { honest, type Scale } from "@/parts/amounts";

const props = defineProps<{ scale: Extract<Scale, { kind: "curve" }>; name: string; responses: number[] | null }>();
const emit = defineEmits<{ give: [responses: number[]] }>();
const values = ref<(number | null)[]>([]);
const says = ref("");
watch(() => props.responses, (given) => (values.value = props.scale.steps.map((_, i) => given?.[i] ?? null)), { immediate: true });
function keep(): void {
  const known = values.value.filter((value): value is number => value !== null);
  if (known.length < props.scale.steps.length) says.value = `${known.length} of ${props.scale.steps.length} steps have a value.`;
  else emit("give", known);
}
</script>

<template>
  <form class="grid gap-3" @submit.prevent="keep">
    <NumberField v-for="(step, i) in scale.steps" :key="step" v-model="values[i]!" :label="`At ${honest(step, 6)} ${scale.step_unit}`" :unit="scale.unit" />
    <ProblemText :says="says" />
    <button class="press press-main min-h-[64px] text-[1.15rem]">Keep it</button>
  </form>
</template>
