<script setup lang="ts">
import { sure } from "@/parts/sure";
/** The responses of a curve, step by step, plotted as they grow; where it leaves the straight line is pointed
 * out.
 */
import { computed, nextTick, ref, watch } from "vue";

import { straight } from "./curve";
import NumberField from "@/parts/NumberField.vue";
import ProblemText from "@/parts/ProblemText.vue";
import { honest, type Scale } from "@/parts/amounts";

const props = defineProps<{
  scale: Extract<Scale, { kind: "curve" }>;
  name: string;
  responses: (number | null)[] | null;
}>();
const emit = defineEmits<{ give: [responses: (number | null)[]] }>();
const values = ref<(number | null)[]>([]);
const says = ref("");
const list = ref<HTMLElement>();
watch(
  () => props.responses,
  (given) => (values.value = props.scale.steps.map((_, i) => given?.[i] ?? null)),
  { immediate: true },
);
function keep(): void {
  // A curve may end early, where a piece broke, and a step that was not taken stays open.
  const end = values.value.findLastIndex((value) => value !== null) + 1;
  const known = values.value.filter((value) => value !== null).length;
  if (props.scale.number === "last" && end < props.scale.steps.length)
    says.value = `The last step has no value, and it is the one that counts.`;
  else if (known < 2 && props.scale.number === "slope")
    says.value = `${known} of ${props.scale.steps.length} steps have a value.`;
  else emit("give", values.value.slice(0, end));
}
/** Enter goes on to the next step, and keeps the curve after the last one. */
async function next(i: number): Promise<void> {
  const inputs = list.value?.querySelectorAll("input");
  if (inputs?.[i + 1]) sure(inputs[i + 1]).focus();
  else {
    await nextTick();
    keep();
  }
}
const [WIDTH, HEIGHT, EDGE] = [300, 150, 10];
const points = computed(() =>
  props.scale.steps.flatMap((step, i) =>
    values.value[i] === null || values.value[i] === undefined
      ? []
      : [[step, sure(values.value[i])] as [number, number]],
  ),
);
const found = computed(() => straight(props.scale.steps, values.value, props.scale.through_zero));
const left = computed(() => found.value?.leaves ?? null);
const span = computed(() => {
  const ys = [0, ...points.value.map(([, y]) => y)];
  return {
    low: Math.min(...ys),
    high: Math.max(...ys, Math.min(...ys) + 1e-9),
    far: props.scale.steps.at(-1) ?? 1,
  };
});
const x = (value: number) => EDGE + ((WIDTH - 2 * EDGE) * value) / span.value.far;
const y = (value: number) =>
  HEIGHT - EDGE - ((HEIGHT - 2 * EDGE) * (value - span.value.low)) / (span.value.high - span.value.low);
const line = computed(() => (left.value ? found.value : null));
</script>

<template>
  <form class="grid gap-3" @submit.prevent="keep">
    <figure v-if="points.length">
      <svg
        :viewBox="`0 0 ${WIDTH} ${HEIGHT}`"
        class="w-full bg-ground"
        role="img"
        :aria-label="`${name} so far: ${points.map(([s, v]) => `${honest(v, 4)} ${scale.unit} at ${honest(s, 4)} ${scale.step_unit}`).join(', ')}`"
      >
        <path
          v-if="line"
          :d="`M${x(0)} ${y(line.start)} L${x(span.far)} ${y(line.start + line.slope * span.far)}`"
          stroke="var(--soft)"
          stroke-width="1.5"
          stroke-dasharray="5 4"
        />
        <polyline
          :points="points.map(([s, v]) => `${x(s)},${y(v)}`).join(' ')"
          fill="none"
          stroke="var(--ink)"
          stroke-width="2"
        />
        <circle
          v-for="[s, v] in points"
          :key="s"
          :cx="x(s)"
          :cy="y(v)"
          :r="s === left?.[1] ? 7 : 4"
          :fill="s === left?.[1] ? 'var(--sheet)' : 'var(--ink)'"
          stroke="var(--ink)"
          stroke-width="2.5"
        />
      </svg>
      <figcaption v-if="left" class="mt-1 font-bold" role="status">
        Leaves the straight line between {{ honest(left[0], 4) }} and {{ honest(left[1], 4) }}
        {{ scale.step_unit }}.
      </figcaption>
    </figure>
    <div ref="list" class="grid gap-3" :class="{ 'grid-cols-2': scale.steps.length > 3 }">
      <NumberField
        v-for="(step, i) in scale.steps"
        :key="step"
        v-model="values[i]!"
        :label="`At ${honest(step, 6)} ${scale.step_unit}`"
        :unit="scale.unit"
        @keydown.enter.prevent="next(i)"
      />
    </div>
    <ProblemText :says="says" />
    <button class="press press-main min-h-[64px] text-[1.15rem]">Keep it</button>
  </form>
</template>
