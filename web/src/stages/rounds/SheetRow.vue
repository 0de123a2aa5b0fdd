<script setup lang="ts">
/** One sample of the sheet.  It shows its own cells alone, so that a key pressed in one row leaves all others
 * as they are.
 */
import { computed } from "vue";

import SheetCell from "./SheetCell.vue";
import type { Given, How, Outcome, Round, RoundAtWork, RoundSample } from "./useRound";
import SampleTag from "@/parts/SampleTag.vue";
import { reading } from "@/parts/amounts";
import { fieldOf } from "@/parts/localMoment";
import { rightNow } from "@/shell/offline/clock";

const props = defineProps<{
  sample: RoundSample;
  outcomes: Outcome[];
  row: number;
  work: RoundAtWork;
  before: Map<string, Round["previous"][number]>;
}>();
/** The day of its own on which it was looked at, where it has one. */
const own = computed(() => props.work.seenThen.get(props.sample.id));
/** What was given at the look before, where the plan shows it. */
function previous(outcome: Outcome): string {
  const one = props.before.get(`${props.sample.id}/${outcome.key}`);
  return !one ? "" : one.words || (one.value === null ? "" : reading(one.value, outcome.scale));
}
const emit = defineEmits<{
  give: [column: number, given: Given, how?: How];
  step: [column: number, by: "next" | "before" | "down" | "up"];
  cannot: [outcome: Outcome];
  again: [outcome: Outcome];
  undo: [];
  wait: [minutes: number, says: string];
}>();
</script>

<template>
  <tr class="rule" role="row">
    <th scope="row" role="rowheader" class="py-1 pr-3 text-left font-normal">
      <template v-if="sample.name"
        ><b class="block truncate" :title="sample.name">{{ sample.name }}</b
        ><span class="code text-[0.9rem] text-soft">{{ sample.code }}</span></template
      ><SampleTag v-else :code="sample.code" />
    </th>
    <td role="cell" class="min-w-0 pr-4 text-soft">
      <span class="block truncate">{{
        sample.blind_repeat ? "brought" : sample.block ? `${sample.block}, ${sample.place}` : sample.place
      }}</span><span v-if="sample.opens" class="block">later</span
      ><span v-else-if="sample.closed" class="block">over</span
      ><template v-if="work.paper.value"
        ><input
          v-if="own !== undefined"
          type="datetime-local"
          class="field !px-1 text-[0.85rem]"
          :value="own"
          :aria-label="`${sample.name || sample.code} was looked at on`"
          @input="work.seenThen.set(sample.id, ($event.target as HTMLInputElement).value)"
        /><button
          v-else
          type="button"
          class="quiet -ml-2 text-[0.9rem] whitespace-nowrap"
          :aria-label="`${sample.name || sample.code} was looked at on another day`"
          @click="work.seenThen.set(sample.id, work.seenOn.value || fieldOf(rightNow()))"
        >
          another day
        </button></template
      >
    </td>
    <td v-for="(outcome, column) in outcomes" :key="outcome.key" role="cell" class="py-1 pr-3">
      <span v-if="sample.skips.includes(outcome.key)" class="text-[0.9rem] text-soft">not read</span>
      <SheetCell
        v-else
        :label="`${outcome.name} of ${sample.code}`"
        :outcome="outcome"
        :cell="work.cellOf(sample, outcome)"
        :at="`${row},${column}`"
        @give="(given, how) => emit('give', column, given, how)"
        @step="(by) => emit('step', column, by)"
        @cannot="emit('cannot', outcome)"
        @again="emit('again', outcome)"
        @undo="emit('undo')"
      />
      <span v-if="previous(outcome)" class="text-[0.9rem] text-soft">before: {{ previous(outcome) }}</span>
      <button
        v-if="outcome.wait && !sample.skips.includes(outcome.key) && !work.cellOf(sample, outcome)"
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
