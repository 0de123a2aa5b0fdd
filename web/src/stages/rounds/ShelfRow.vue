<script setup lang="ts">
import { sure } from "@/parts/sure";
/** One trial on the shelf: its name, its line in time with a needle at now, and what it wants. */
import { computed } from "vue";

import { day, standingWords } from "@/parts/moments";
import type { Schemas } from "@/shell/api/client";

const props = defineProps<{ trial: Schemas["ShelfTrial"]; now: Date }>();
const emit = defineEmits<{ more: [] }>();

const calls = computed(
  () =>
    props.trial.checkpoints.find((s) => s.standing === "due") ??
    props.trial.checkpoints.find((s) => s.standing === "late"),
);
const next = computed(() => props.trial.checkpoints.find((stop) => stop.standing === "upcoming"));
const lead = computed(() => props.trial.role === "lead");
const wants = computed(() => {
  const trial = props.trial;
  if (trial.state === "draft") return lead.value ? "A draft. Go on planning." : "Being planned.";
  if (trial.state === "sealed") return "Sealed. Exposure has not started.";
  if (trial.is_tasting && trial.state !== "opened") return "A tasting. Its key is sealed.";
  if (trial.state === "opened") return `Concluded. Key opened ${day(sure(trial.opened_at), trial.zone)}.`;
  if (calls.value) return `${calls.value.name} is ${standingWords(calls.value, props.now, trial.zone)}.`;
  if (next.value) return `${next.value.name} comes ${standingWords(next.value, props.now, trial.zone)}.`;
  return lead.value ? "All looks are over. The key can be opened." : "All looks are over.";
});
const urgent = computed(() => props.trial.state === "running" && calls.value && props.trial.may_score);
const to = computed(() => ({
  name:
    props.trial.is_tasting && props.trial.state !== "opened"
      ? "panels"
      : props.trial.state === "draft" && lead.value
        ? "plan"
        : props.trial.state === "opened"
          ? "verdict"
          : "board",
  params: { id: props.trial.id },
}));
const last = computed(() => Math.max(1, ...props.trial.checkpoints.map((stop) => stop.offset)));
const at = (offset: number) => 8 + (offset / last.value) * 284;
const needle = computed(() => {
  if (!props.trial.started_at || props.trial.state !== "running") return null;
  const minutes = (props.now.getTime() - new Date(props.trial.started_at).getTime()) / 60_000;
  return minutes >= 0 && minutes <= last.value ? at(minutes) : null;
});
const done = (standing: string) => ["taken", "skipped"].includes(standing);
const reach = computed(() => (props.trial.state === "opened" ? at(last.value) : (needle.value ?? 8)));
</script>

<template>
  <li
    class="sheet grid items-center gap-x-8 gap-y-3 px-5 py-4 md:grid-cols-[minmax(0,1fr)_minmax(0,300px)_230px]"
    :class="{ 'border-l-[10px] border-due': urgent }"
  >
    <div class="min-w-0">
      <h2>
        <RouterLink :to="to" class="flex min-h-11 items-center no-underline hover:underline"
          ><span class="line-clamp-2">{{ trial.title }}</span></RouterLink
        >
      </h2>
      <p v-if="trial.question" class="line-clamp-2 text-soft">{{ trial.question }}</p>
      <p class="mt-1 font-medium">{{ wants }}</p>
    </div>
    <svg
      viewBox="0 0 300 44"
      class="w-full max-w-[300px]"
      role="img"
      :class="{ invisible: trial.is_tasting }"
      :aria-hidden="trial.is_tasting"
      :aria-label="`${trial.checkpoints.length} looks planned, ${trial.checkpoints.filter((s) => done(s.standing)).length} taken`"
    >
      <line v-if="trial.checkpoints.length" x1="8" x2="292" y1="22" y2="22" class="ahead" />
      <line v-if="trial.checkpoints.length" x1="8" :x2="reach" y1="22" y2="22" class="behind" />
      <g v-for="stop in trial.checkpoints" :key="stop.key">
        <rect
          v-if="done(stop.standing)"
          :x="at(stop.offset) - 3"
          y="10"
          width="6"
          height="24"
          class="taken"
        />
        <rect
          v-else-if="stop.standing === 'due' || stop.standing === 'late'"
          :x="at(stop.offset) - 5"
          y="6"
          width="10"
          height="32"
          class="now"
        />
        <rect
          v-else-if="stop.standing === 'missed'"
          :x="at(stop.offset) - 3"
          y="11"
          width="6"
          height="22"
          class="missed"
        />
        <rect v-else :x="at(stop.offset) - 2" y="14" width="4" height="16" class="coming" />
      </g>
      <polygon v-if="needle !== null" :points="`${needle - 6},0 ${needle + 6},0 ${needle},9`" class="taken" />
    </svg>
    <div class="flex items-center gap-2">
      <RouterLink
        v-if="urgent"
        class="press press-main grow"
        :to="{ name: 'round', params: { id: trial.id, checkpoint: calls!.key } }"
      >
        Score {{ calls!.name }}
      </RouterLink>
      <RouterLink v-else :to="to" class="press grow">
        {{
          trial.state === "draft"
            ? lead
              ? "Plan"
              : "Look"
            : trial.state === "opened"
              ? "Verdict"
              : trial.is_tasting
                ? "Tasting"
                : "Board"
        }}
      </RouterLink>
      <button type="button" class="quiet" :aria-label="`More for ${trial.title}`" @click="emit('more')">
        More
      </button>
    </div>
  </li>
</template>

<style scoped>
.ahead {
  stroke: var(--soft);
  stroke-width: 2;
  stroke-dasharray: 5 5;
}
.behind {
  stroke: var(--ink);
  stroke-width: 4;
}
.taken {
  fill: var(--ink);
}
.now {
  fill: var(--color-due);
  stroke: var(--ink);
  stroke-width: 1.5;
}
.missed {
  fill: var(--sheet);
  stroke: var(--soft);
  stroke-width: 2;
}
.coming {
  fill: var(--soft);
}
</style>
