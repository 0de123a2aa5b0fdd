<script setup lang="ts">
import { sure } from "@/parts/sure";
/** A span of time as a number and its unit; kept in minutes. */
import { ref, useId, watch } from "vue";

import ProblemText from "./ProblemText.vue";

const model = defineModel<number>({ required: true });
defineProps<{ label: string; hideLabel?: boolean; says?: string }>();
const id = useId();
const UNITS = [
  { minutes: 10080, name: "weeks" },
  { minutes: 1440, name: "days" },
  { minutes: 60, name: "h" },
  { minutes: 1, name: "min" },
];
const largest = (minutes: number) =>
  minutes === 0
    ? 1440
    : sure(UNITS.find((unit) => minutes % unit.minutes === 0 && (unit.minutes < 10080 || minutes > 10080)))
        .minutes;
const unit = ref(largest(model.value));
const text = ref(String(model.value / unit.value));
const own = ref("");
watch(model, (minutes) => {
  if (Math.round(Number(text.value.replace(",", ".")) * unit.value) === minutes) return;
  unit.value = largest(minutes);
  text.value = String(minutes / unit.value);
});
function change(): void {
  const value = Number(text.value.trim().replace(",", ".").replace("−", "-"));
  const minutes = value * unit.value;
  const whole = Math.abs(minutes - Math.round(minutes)) < 0.01;
  if (!text.value.trim() || !Number.isFinite(value)) own.value = "A number is needed here.";
  else own.value = whole ? "" : "Whole minutes, please: this does not come out even.";
  if (!own.value) model.value = Math.round(minutes);
}
</script>

<template>
  <div>
    <label
      :for="id"
      :class="
        hideLabel ? 'mb-1 block text-[0.9rem] text-soft sm:sr-only' : 'mb-1 block text-[0.9rem] text-soft'
      "
      >{{ label }}</label
    >
    <span class="grid grid-cols-[minmax(2.2rem,1fr)_5.1rem]">
      <input
        :id="id"
        v-model="text"
        class="field !px-2"
        inputmode="decimal"
        autocomplete="off"
        :aria-invalid="own || says ? 'true' : undefined"
        :aria-describedby="`${id}-says`"
        :data-unkept="own || undefined"
        @input="change"
      />
      <select
        v-model.number="unit"
        class="field !pr-6 !pl-1.5"
        :aria-label="`Unit of ${label}`"
        @change="change"
      >
        <option v-for="one in UNITS" :key="one.minutes" :value="one.minutes">{{ one.name }}</option>
      </select>
    </span>
    <ProblemText :id="`${id}-says`" :says="own || says" />
  </div>
</template>
