<script setup lang="ts">
/** The timers that run, the next to end first; one that has ended says what is to be done now. */
import type { TimersAtWork } from "./useTimers";

defineProps<{ timers: TimersAtWork }>();
</script>

<template>
  <ul v-if="timers.timers.value.length" class="flex flex-wrap gap-2" aria-label="Timers">
    <li
      v-for="one in timers.timers.value"
      :key="one.id"
      class="flex items-center gap-3 pl-3"
      :class="one.over ? 'bg-due text-on-due' : 'bg-ground'"
      :role="one.over ? 'alert' : undefined"
    >
      <b class="code">{{ one.code }}</b>
      <span v-if="!one.over" class="text-[1.2rem] tabular-nums">{{ one.left }}</span>
      <span v-else class="font-bold">{{ one.says || "time is up" }}</span>
      <button
        type="button"
        class="quiet"
        :aria-label="`${one.over ? 'Done with' : 'Stop'} the timer of ${one.code}`"
        @click="timers.end(one.id)"
      >
        {{ one.over ? "Done" : "Stop" }}
      </button>
    </li>
  </ul>
</template>
