<script setup lang="ts">
/** What amendments added to a sealed plan, and what one is about to add: samples, of new treatments too. */
import { computed } from "vue";

import {
  addFresh,
  addedBlocks,
  adding,
  beginAdding,
  isFresh,
  leaveAdding,
  setAdded,
  takesMore,
} from "./later";
import type { Plan, PlanAtWork } from "./usePlan";
import { day, moment } from "@/parts/moments";
import NumberField from "@/parts/NumberField.vue";
import ProblemText from "@/parts/ProblemText.vue";
import { sure } from "@/parts/sure";
import TakeOut from "@/parts/TakeOut.vue";

const plan = defineModel<Plan>({ required: true });
const props = defineProps<{ work: PlanAtWork }>();
const words = computed(() => props.work.sample.value);
const now = computed(() => adding(plan.value));
const earlier = computed(() => addedBlocks(plan.value).filter((one) => one.added.at));
const named = computed(() => new Map(plan.value.treatments.map((one) => [one.key, one.name || "unnamed"])));
const told = (samples: Record<string, number>) =>
  Object.entries(samples)
    .map(([key, many]) => `${many} of ${named.value.get(key) ?? "?"}`)
    .join(", ");
const FEW = 4;
const place = computed(() => plan.value.layout.blocks.findIndex((one) => one === now.value));
const says = computed(() =>
  [`layout.blocks.${place.value}.added`, `layout.blocks.${place.value}.name`, "layout", "layout.blocks"]
    .map((at) => props.work.says(at))
    .find(Boolean),
);
function begin(): void {
  beginAdding(plan.value, `Added on ${day(new Date(), plan.value.zone)}`);
  addFresh(plan.value, FEW);
  // What is new can only be held against what is added beside it.
  const control = plan.value.treatments.find((one) => one.kind !== "treatment") ?? plan.value.treatments[0];
  if (control) setAdded(plan.value, control.key, FEW);
}
function takeOut(key: string): void {
  setAdded(plan.value, key, 0);
  plan.value.treatments = plan.value.treatments.filter((one) => one.key !== key);
}
</script>

<template>
  <div>
    <ul v-if="earlier.length" class="grid gap-1">
      <li v-for="one in earlier" :key="one.key">
        <b>{{ one.name }}</b>, {{ moment(one.added.at, plan.zone) }}: {{ told(one.added.samples) }}
      </li>
    </ul>
    <template v-if="work.amending.value">
      <p v-if="!takesMore(plan)" class="text-soft">
        Squares, whole plots and pairs are complete as they were drawn: what is new is asked in a trial of its
        own.
      </p>
      <button v-else-if="!now" type="button" class="press press-small mt-2" data-adds @click="begin">
        Add {{ words.many }} to the trial
      </button>
      <div v-else class="mt-2 grid gap-3 border-2 border-ink p-4">
        <p class="max-w-2xl text-soft">
          Drawn into a block of their own under codes of their own, and started by themselves. What is new is
          compared with what is added beside it, not with what ran before.
        </p>
        <label class="block max-w-96"
          ><span class="mb-1 block text-[0.9rem] text-soft">What this block is called</span>
          <input v-model="now.name" class="field" autocomplete="off" />
        </label>
        <ul class="grid gap-2" aria-label="How many are added">
          <li
            v-for="one in plan.treatments"
            :key="one.key"
            class="grid grid-cols-[minmax(0,1fr)_5.2rem_44px] items-center gap-2"
          >
            <input
              v-if="isFresh(plan, one.key)"
              v-model="one.name"
              class="field"
              autocomplete="off"
              aria-label="Name of the new treatment"
              placeholder="Name of the new treatment"
            />
            <span v-else class="min-w-0 break-words">{{ one.name }}</span>
            <NumberField
              :model-value="now.added.samples[one.key] ?? 0"
              :label="`How many of ${one.name || 'the new treatment'} are added`"
              hide-label
              whole
              needed
              @update:model-value="(n) => n !== null && setAdded(plan, one.key, n)"
            />
            <TakeOut
              v-if="isFresh(plan, one.key)"
              :what="one.name || 'the new treatment'"
              @out="takeOut(one.key)"
            />
            <span v-else />
          </li>
        </ul>
        <ProblemText :says="says" />
        <div class="flex flex-wrap gap-2">
          <button type="button" class="press press-small" data-adds @click="addFresh(plan, FEW)">
            Another new treatment
          </button>
          <button
            type="button"
            class="press press-small"
            @click="leaveAdding(plan, sure(work.saved.value).plan)"
          >
            Add nothing
          </button>
        </div>
      </div>
    </template>
  </div>
</template>
