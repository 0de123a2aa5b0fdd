<script setup lang="ts">
/** When it is looked at: offsets from the start of exposure with their windows, one by one or several at once. */
import { computed, ref } from "vue";

import { newKey, type Plan, type PlanAtWork } from "./usePlan";
import DurationField from "@/parts/DurationField.vue";
import NumberField from "@/parts/NumberField.vue";
import PlanText from "./PlanText.vue";
import ProblemText from "@/parts/ProblemText.vue";
import { offsetWords } from "@/parts/moments";

const plan = defineModel<Plan>({ required: true });
const props = defineProps<{ work: PlanAtWork }>();
const every = ref(1440);
const times = ref<number | null>(4);
const last = computed(() => Math.max(0, ...plan.value.checkpoints.map((one) => one.offset)));

function nameOf(minutes: number): string {
  const words = offsetWords(minutes);
  const [, count, unit] = /^(\d+) (week|day)s?$/.exec(words) ?? [];
  return count && unit ? `${unit[0]!.toUpperCase()}${unit.slice(1)} ${count}` : words;
}
function add(offset: number, wait: number): void {
  const window = Math.floor(wait / 4 / 5) * 5;
  plan.value.checkpoints.push({ key: newKey(), name: nameOf(offset), offset, before: Math.min(window, 720), after: Math.min(window, 720) });
}
function addSeveral(): void {
  const from = last.value;
  for (let i = 1; i <= Math.min(60, times.value ?? 1); i += 1) add(from + i * every.value, every.value);
}
const says = (i: number, part: string) => props.work.says(`checkpoints.${i}.${part}`);
function move(i: number, offset: number): void {
  const one = plan.value.checkpoints[i]!;
  if (one.name === nameOf(one.offset)) one.name = nameOf(offset);
  one.offset = offset;
}
</script>

<template>
  <div>
    <div v-if="plan.checkpoints.length" class="hidden gap-2 pb-1 text-[0.88rem] text-soft sm:grid sm:grid-cols-[minmax(0,1fr)_repeat(3,7.6rem)_40px]">
      <span>Name</span><span>after the start</span><span>may be early by</span><span>or late by</span>
    </div>
    <ul class="grid gap-2">
      <li v-for="(one, i) in plan.checkpoints" :key="one.key" class="grid grid-cols-[1fr_1fr_44px] items-end gap-2 sm:items-start sm:grid-cols-[minmax(0,1fr)_repeat(3,7.6rem)_40px]">
        <PlanText v-model="one.name" :at="`checkpoints.${i}.name`" :label="`Name of look ${i + 1}`" :work="work" />
        <DurationField :model-value="one.offset" :label="`Look ${i + 1}, after the start`" hide-label :says="says(i, 'offset')" @update:model-value="(offset) => move(i, offset)" />
        <DurationField v-model="one.before" :label="`Look ${i + 1}, early by`" class="max-sm:col-start-1" hide-label :says="says(i, 'before')" />
        <DurationField v-model="one.after" :label="`Look ${i + 1}, late by`" hide-label :says="says(i, 'after')" />
        <button type="button" class="grid h-[46px] w-11 place-items-center text-[1.4rem] max-sm:col-start-3 max-sm:row-start-1" :aria-label="`Take out ${one.name}`" @click="plan.checkpoints.splice(i, 1)">×</button>
      </li>
    </ul>
    <div class="mt-3 flex flex-wrap items-end gap-3">
      <DurationField v-model="every" label="Look every" class="w-40" />
      <NumberField v-model="times" label="so many times" whole class="w-28" />
      <button type="button" class="press press-small" @click="addSeveral">Add these looks</button>
    </div>
    <ProblemText :says="work.says('checkpoints')" />
  </div>
</template>
