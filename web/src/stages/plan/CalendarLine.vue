<script setup lang="ts">
import { sure } from "@/parts/sure";
/** The looks on the calendar: dates, weekends, and what else the person has to do then. */
import { computed, onUnmounted, ref, watch } from "vue";

import type { Plan } from "./usePlan";
import ProblemText from "@/parts/ProblemText.vue";
import { clock, weekday } from "@/parts/moments";
import { answer, api, type Schemas } from "@/shell/api/client";
import { problemsOf } from "@/shell/api/problems";

const props = defineProps<{ plan: Plan; trial: string }>();
const calendar = ref<Schemas["CalendarOut"]>();
const says = ref("");
let timer = 0;
async function ask(): Promise<void> {
  try {
    calendar.value = await answer(
      api.POST("/api/calendar", { body: { plan: props.plan, trial: props.trial } }),
    );
    says.value = "";
  } catch (error) {
    calendar.value = undefined;
    says.value = sure(problemsOf(error)[0]).says;
  }
}
watch(
  () =>
    JSON.stringify([
      props.plan.starts_on,
      props.plan.begun?.on,
      props.plan.checkpoints,
      props.plan.zone,
      props.plan.layout.stagger,
    ]),
  () => {
    window.clearTimeout(timer);
    timer = window.setTimeout(() => void ask(), 250);
  },
  { immediate: true },
);
onUnmounted(() => window.clearTimeout(timer));
const names = computed(
  () =>
    new Map(
      props.plan.checkpoints.map((one) => [one.key, one.stage ? `${one.name}, ${one.stage}` : one.name]),
    ),
);
const looks = computed(() => calendar.value?.looks ?? []);
const weekends = computed(() => looks.value.filter((one) => one.weekend).length);
const clashes = computed(() => looks.value.filter((one) => one.clashes.length).length);
</script>

<template>
  <div class="mt-3">
    <ProblemText :says="says" />
    <template v-if="looks.length">
      <p>
        <b>{{
          weekends ? `${weekends} of ${looks.length} looks fall on a weekend` : "No look falls on a weekend"
        }}</b>{{
          clashes
            ? `, and ${clashes} within an hour of a look of another trial of yours.`
            : ", and none near a look of another trial of yours."
        }}
      </p>
      <ol class="mt-2 grid gap-x-6 sm:grid-cols-2">
        <li
          v-for="one in looks"
          :key="one.checkpoint"
          class="rule flex flex-wrap items-baseline gap-x-3 py-1"
        >
          <span class="min-w-32 font-bold">{{ names.get(one.checkpoint) }}</span>
          <span :class="{ weekend: one.weekend }"
            >{{ weekday(one.due, plan.zone) }}, {{ clock(one.due, plan.zone) }}</span
          >
          <span v-if="one.clashes.length" class="w-full text-[0.92rem]"
            >With {{ one.clashes.join(" and ") }}</span
          >
          <span v-else-if="one.same_day.length" class="w-full text-[0.92rem] text-soft"
            >Same day: {{ one.same_day.join(", ") }}</span
          >
        </li>
      </ol>
    </template>
    <p v-else-if="!says" class="text-soft">
      With a start, every look gets its date, weekends among them, and clashes with your other trials are
      shown.
    </p>
  </div>
</template>

<style scoped>
.weekend {
  border-bottom: 4px double var(--ink);
}
</style>
