<script setup lang="ts">
/** Several attributes of one sample at once: a row of pads for each, with the words of the one that was
 * given.
 */
import { computed } from "vue";

import type { Cell, Outcome } from "./useRound";

const props = defineProps<{ outcomes: Outcome[]; cellOf: (outcome: Outcome) => Cell | undefined }>();
const emit = defineEmits<{ give: [outcome: Outcome, value: number] }>();
const rows = computed(() =>
  props.outcomes.map((outcome) => {
    const scale = outcome.scale;
    const pads =
      scale.kind === "grade"
        ? scale.levels.map((level) => ({ value: level.value, label: level.label, words: level.anchor }))
        : scale.kind === "passfail"
          ? [
              { value: 1, label: scale.pass_word, words: "" },
              { value: 0, label: scale.fail_word, words: "" },
            ]
          : [
              { value: 1, label: "seen", words: "" },
              { value: 0, label: "not yet", words: "" },
            ];
    const given = props.cellOf(outcome)?.value ?? null;
    return { outcome, pads, given, words: pads.find((pad) => pad.value === given)?.words ?? "" };
  }),
);
</script>

<template>
  <div class="grid content-start gap-4">
    <div v-for="row in rows" :key="row.outcome.key" role="group" :aria-label="row.outcome.name">
      <p class="flex flex-wrap justify-between gap-x-3">
        <b>{{ row.outcome.name }}</b><span class="text-soft">{{ row.words }}</span>
      </p>
      <div class="mt-1 flex gap-1.5">
        <button
          v-for="pad in row.pads"
          :key="pad.value"
          type="button"
          class="pad"
          :class="{ given: pad.value === row.given }"
          :aria-pressed="pad.value === row.given"
          :title="pad.words"
          @click="emit('give', row.outcome, pad.value)"
        >
          {{ pad.label }}<span v-if="pad.words" class="sr-only">, {{ pad.words }}</span>
        </button>
      </div>
    </div>
  </div>
</template>

<style scoped>
.pad {
  flex: 1 1 0;
  min-width: 0;
  min-height: 56px;
  border: 2px solid var(--line);
  background: var(--sheet);
  font-weight: 700;
  font-size: 1.2rem;
}
.given {
  background: var(--ink);
  color: var(--sheet);
  border-color: var(--ink);
}
</style>
