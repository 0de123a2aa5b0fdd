<script setup lang="ts">
/** One sample of the sheet.  It shows its own cells alone, so that a key pressed in one row leaves all others
 * as they are.
 */
import SheetCell from "./SheetCell.vue";
import type { Given, How, Outcome, Round, RoundAtWork, RoundSample } from "./useRound";
import SampleTag from "@/parts/SampleTag.vue";
import { reading } from "@/parts/amounts";

const props = defineProps<{
  sample: RoundSample;
  outcomes: Outcome[];
  row: number;
  work: RoundAtWork;
  before: Map<string, Round["previous"][number]>;
}>();
/** What was given at the look before, where the plan shows it. */
function previous(outcome: Outcome): string {
  const one = props.before.get(`${props.sample.id}/${outcome.key}`);
  return !one ? "" : one.words || (one.value === null ? "" : reading(one.value, outcome.scale));
}
const emit = defineEmits<{
  give: [column: number, given: Given, how?: How];
  step: [column: number, by: "next" | "before" | "down" | "up"];
  cannot: [outcome: Outcome];
  undo: [];
  wait: [minutes: number, says: string];
}>();
</script>

<template>
  <tr class="rule" role="row">
    <th scope="row" role="rowheader" class="py-1 pr-3 font-normal"><SampleTag :code="sample.code" /></th>
    <td role="cell" class="truncate pr-4 text-soft">
      {{ sample.blind_repeat ? "brought" : sample.block ? `${sample.block}, ${sample.place}` : sample.place
      }}<span v-if="sample.opens" class="block">later</span>
    </td>
    <td v-for="(outcome, column) in outcomes" :key="outcome.key" role="cell" class="py-1 pr-3">
      <SheetCell
        :label="`${outcome.name} of ${sample.code}`"
        :outcome="outcome"
        :cell="work.cellOf(sample, outcome)"
        :at="`${row},${column}`"
        @give="(given, how) => emit('give', column, given, how)"
        @step="(by) => emit('step', column, by)"
        @cannot="emit('cannot', outcome)"
        @undo="emit('undo')"
      />
      <span v-if="previous(outcome)" class="text-[0.9rem] text-soft">before: {{ previous(outcome) }}</span>
      <button
        v-if="outcome.wait && !work.cellOf(sample, outcome)"
        type="button"
        class="quiet"
        :aria-label="`Wait ${outcome.wait} min for ${sample.code}`"
        @click="emit('wait', outcome.wait, outcome.wait_says)"
      >
        Wait {{ outcome.wait }} min
      </button>
    </td>
  </tr>
</template>
