<script setup lang="ts">
/** When it began: for all, for a place of its own day, or for single samples. */
import { computed, ref, useId } from "vue";

import { begun as fresh, type Begun } from "./fresh";
import type { Plan, PlanAtWork } from "./usePlan";
import ProblemText from "@/parts/ProblemText.vue";
import TakeOut from "@/parts/TakeOut.vue";
import { fieldOf } from "@/parts/localMoment";
import { rightNow } from "@/shell/offline/clock";

const plan = defineModel<Plan>({ required: true });
const props = defineProps<{ work: PlanAtWork; names: string[] }>();
const told = computed<Begun>({
  get: () => plan.value.begun ?? fresh(),
  set: (now) => (plan.value.begun = now),
});
const says = useId();
const now = fieldOf(rightNow());
const places = computed(() => {
  const { kind, blocks } = plan.value.layout;
  return kind === "blocks" || (kind === "split" && blocks.length) ? blocks : [];
});
const inside = (block: string) => told.value.samples.filter((one) => one.block === block);
/** The day that all samples of a place share, where it is not that of all. */
const dayOf = (block: string) => {
  const days = new Set(inside(block).map((one) => one.started));
  return days.size === 1 ? [...days][0] : "";
};
function dated(which: (i: number, block: string) => boolean, started: string): void {
  const samples = told.value.samples.map((one, i) => (which(i, one.block) ? { ...one, started } : one));
  told.value = { ...told.value, samples };
}
/** Samples with a day of their own, where their place has none. */
const single = computed(() =>
  told.value.samples
    .map((one, i) => ({
      i,
      name: props.names[i] ?? `place ${i + 1}`,
      started: one.started,
      block: one.block,
    }))
    .filter((one) => one.started && (!one.block || dayOf(one.block) !== one.started)),
);
const chosen = ref("");
function add(): void {
  const i = Number(chosen.value);
  dated((each) => each === i, told.value.on || now);
  chosen.value = "";
}
</script>

<template>
  <div class="grid max-w-xl gap-3">
    <div>
      <label class="block max-w-72"
        ><span class="mb-1 block text-[0.9rem] text-soft">Exposure began on</span>
        <input
          type="datetime-local"
          class="field"
          :max="now"
          :value="told.on"
          :aria-invalid="work.says('begun.on') ? 'true' : undefined"
          :aria-describedby="says"
          @input="told = { ...told, on: ($event.target as HTMLInputElement).value }"
      /></label>
      <ProblemText :id="says" :says="work.says('begun.on')" />
    </div>
    <template v-if="told.samples.length">
      <label v-for="one in places" :key="one.key" class="block max-w-72"
        ><span class="mb-1 block text-[0.9rem] text-soft"
          >{{ one.name || "A place" }}, if on another day</span
        >
        <input
          type="datetime-local"
          class="field"
          :value="dayOf(one.key)"
          @input="dated((_, block) => block === one.key, ($event.target as HTMLInputElement).value)"
      /></label>
      <ul v-if="single.length" class="grid gap-2">
        <li
          v-for="one in single"
          :key="one.i"
          class="grid grid-cols-[minmax(0,1fr)_44px] items-end gap-2 sm:max-w-96"
        >
          <label
            ><span class="mb-1 block text-[0.9rem] text-soft">{{ one.name }} began on</span>
            <input
              type="datetime-local"
              class="field"
              :value="one.started"
              @input="dated((i) => i === one.i, ($event.target as HTMLInputElement).value)"
          /></label>
          <TakeOut :what="`the day of ${one.name}`" @out="dated((i) => i === one.i, '')" />
        </li>
      </ul>
      <div class="flex flex-wrap items-end gap-2">
        <label
          ><span class="mb-1 block text-[0.9rem] text-soft">One that began on a day of its own</span>
          <select v-model="chosen" class="field max-w-64">
            <option value="">choose it</option>
            <option v-for="(name, i) in names" :key="i" :value="String(i)">{{ name }}</option>
          </select></label
        >
        <button type="button" class="press press-small" :disabled="chosen === ''" @click="add">
          Give it a day
        </button>
      </div>
    </template>
  </div>
</template>
