<script setup lang="ts">
/** The responses of a curve, step by step, plotted as they grow; where it leaves the straight line is pointed out. */
import { computed, nextTick, ref, watch } from "vue";

import { leavesAt, lineThrough } from "./curve";
import NumberField from "@/parts/NumberField.vue";
import ProblemText from "@/parts/ProblemText.vue";
import { honest, type Scale } from "@/parts/amounts";

const props = defineProps<{ scale: Extract<Scale, { kind: "curve" }>; name: string; responses: number[] | null }>();
const emit = defineEmits<{ give: [responses: number[]] }>();
const values = ref<(number | null)[]>([]);
const says = ref("");
const list = ref<HTMLElement>();
watch(() => props.responses, (given) => (values.value = props.scale.steps.map((_, i) => given?.[i] ?? null)), { immediate: true });
function keep(): void {
  const end = values.value.findIndex((value) => value === null);
  const known = values.value.slice(0, end < 0 ? undefined : end).filter((value): value is number => value !== null);
  const given = values.value.filter((value) => value !== null).length;
  const fewest = props.scale.number === "last" ? props.scale.steps.length : 2;
  if (given > known.length) says.value = `Step ${known.length + 1} has no value, but a later one has. A curve may end early, where a piece broke; it has no holes.`;
  else if (known.length < fewest) says.value = `${known.length} of ${props.scale.steps.length} steps have a value.`;
  else emit("give", known);
}
/** Enter goes on to the next step, and keeps the curve after the last one. */
async function next(i: number): Promise<void> {
  const inputs = list.value?.querySelectorAll("input");
  if (inputs?.[i + 1]) inputs[i + 1]!.focus();
  else {
    await nextTick();
    keep();
  }
}
const [WIDTH, HEIGHT, EDGE] = [300, 150, 10];
const points = computed(() => props.scale.steps.flatMap((step, i) => (values.value[i] === null || values.value[i] === undefined ? [] : [[step, values.value[i]!] as [number, number]])));
const left = computed(() => leavesAt(props.scale.steps, values.value));
const span = computed(() => {
  const ys = [0, ...points.value.map(([, y]) => y)];
  return { low: Math.min(...ys), high: Math.max(...ys, Math.min(...ys) + 1e-9), far: props.scale.steps.at(-1) ?? 1 };
});
const x = (value: number) => EDGE + ((WIDTH - 2 * EDGE) * value) / span.value.far;
const y = (value: number) => HEIGHT - EDGE - ((HEIGHT - 2 * EDGE) * (value - span.value.low)) / (span.value.high - span.value.low);
const line = computed(() => (left.value < 0 ? null : lineThrough(points.value.slice(0, left.value))));
</script>

<template>
  <form class="grid gap-3" @submit.prevent="keep">
    <figure v-if="points.length">
      <svg :viewBox="`0 0 ${WIDTH} ${HEIGHT}`" class="w-full bg-ground" role="img" :aria-label="`${name} so far: ${points.map(([s, v]) => `${honest(v, 4)} ${scale.unit} at ${honest(s, 4)} ${scale.step_unit}`).join(', ')}`">
        <path v-if="line" :d="`M${x(0)} ${y(line.start)} L${x(span.far)} ${y(line.start + line.slope * span.far)}`" stroke="var(--soft)" stroke-width="1.5" stroke-dasharray="5 4" />
        <polyline :points="points.map(([s, v]) => `${x(s)},${y(v)}`).join(' ')" fill="none" stroke="var(--ink)" stroke-width="2" />
        <circle v-for="([s, v], i) in points" :key="s" :cx="x(s)" :cy="y(v)" :r="i === left ? 7 : 4" :fill="i === left ? 'var(--sheet)' : 'var(--ink)'" stroke="var(--ink)" stroke-width="2.5" />
      </svg>
      <figcaption v-if="left >= 0" class="mt-1 font-bold" role="status">Leaves the straight line at {{ honest(scale.steps[left]!, 4) }} {{ scale.step_unit }}.</figcaption>
    </figure>
    <div ref="list" class="grid gap-3" :class="{ 'grid-cols-2': scale.steps.length > 3 }">
      <NumberField v-for="(step, i) in scale.steps" :key="step" v-model="values[i]!" :label="`At ${honest(step, 6)} ${scale.step_unit}`" :unit="scale.unit" @keydown.enter.prevent="next(i)" />
    </div>
    <ProblemText :says="says" />
    <button class="press press-main min-h-[64px] text-[1.15rem]">Keep it</button>
  </form>
</template>
