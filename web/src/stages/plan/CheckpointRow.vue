<script setup lang="ts">
import { sure } from "@/parts/sure";
/** One look: when it comes, its window, and the part of a look it is if any. */
import { computed } from "vue";

import type { Checkpoint } from "./fresh";
import PlanText from "./PlanText.vue";
import SomePicker from "./SomePicker.vue";
import type { Plan, PlanAtWork } from "./usePlan";
import DurationField from "@/parts/DurationField.vue";
import NumberField from "@/parts/NumberField.vue";
import ProblemText from "@/parts/ProblemText.vue";
import TakeOut from "@/parts/TakeOut.vue";

const one = defineModel<Checkpoint>({ required: true });
const props = defineProps<{ place: number; cycleWord: string; plan: Plan; work: PlanAtWork }>();
const emit = defineEmits<{ out: []; split: [] }>();
const n = computed(() => props.place + 1);
const at = (part: string) => `checkpoints.${props.place}.${part}`;
const says = (part: string) => props.work.says(at(part));
const hour = computed(() =>
  one.value.clock === null
    ? ""
    : `${String(Math.floor(one.value.clock / 60)).padStart(2, "0")}:${String(one.value.clock % 60).padStart(2, "0")}`,
);
function setHour(text: string): void {
  const [hours, minutes] = text.split(":").map(Number);
  one.value.clock = text ? sure(hours) * 60 + sure(minutes) : null;
}
</script>

<template>
  <li class="border-b border-line pb-2">
    <div
      class="grid grid-cols-[1fr_44px] items-start gap-2 sm:grid-cols-[minmax(0,1fr)_8.6rem_7.4rem_7.4rem_44px]"
    >
      <div class="grid gap-1">
        <PlanText
          v-model="one.name"
          :at="at('name')"
          :label="`Name of look ${n}`"
          placeholder="Day 4"
          :work="work"
        />
        <PlanText
          v-if="one.stage"
          v-model="one.stage"
          :at="at('stage')"
          :label="`Part of look ${n}`"
          placeholder="before cleaning"
          :work="work"
        />
      </div>
      <p v-if="one.baseline" class="py-2 max-sm:col-start-1 sm:col-span-3">before the start: a baseline</p>
      <template v-else>
        <NumberField
          v-if="one.cycle !== null"
          class="max-sm:col-start-1"
          :model-value="one.cycle"
          :label="`Look ${n}, after how many`"
          hide-label
          :unit="cycleWord ? `× ${cycleWord}` : 'cycles'"
          whole
          needed
          :says="says('cycle')"
          @update:model-value="(value) => value !== null && (one.cycle = value)"
        />
        <div v-else class="max-sm:col-start-1">
          <DurationField
            v-model="one.offset"
            :label="`Look ${n}, after the start`"
            hide-label
            :says="says('offset')"
          />
          <label
            v-if="one.clock !== null || one.offset % 1440 === 0"
            class="mt-1 flex items-center gap-2 text-[0.9rem] whitespace-nowrap text-soft"
            >at
            <input
              type="time"
              class="field !min-h-11 !w-full !px-1 !py-0"
              :value="hour"
              :aria-label="`Look ${n}, hour of the day`"
              @input="setHour(($event.target as HTMLInputElement).value)"
          /></label>
        </div>
        <div class="max-sm:col-start-1">
          <DurationField
            v-model="one.before"
            :label="`Look ${n}, early by`"
            hide-label
            :says="says('before')"
          /><span class="text-[0.85rem] text-soft">early at most</span>
        </div>
        <div class="max-sm:col-start-1">
          <DurationField
            v-model="one.after"
            :label="`Look ${n}, late by`"
            hide-label
            :says="says('after')"
          /><span class="text-[0.85rem] text-soft">late at most</span>
        </div>
      </template>
      <TakeOut
        class="max-sm:col-start-2 max-sm:row-start-1"
        :what="one.name || `look ${n}`"
        @out="emit('out')"
      />
    </div>
    <ProblemText :says="says('clock')" />
    <SomePicker
      v-model="one.only"
      :at="at('only')"
      :what="one.name || `Look ${n}`"
      :plan="plan"
      :work="work"
    />
    <button
      v-if="!one.stage && !one.baseline"
      type="button"
      class="quiet text-[0.9rem]"
      :aria-label="`Take look ${n} in two parts`"
      @click="emit('split')"
    >
      in two parts, before and after something is done
    </button>
  </li>
</template>
