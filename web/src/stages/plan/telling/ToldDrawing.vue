<script setup lang="ts">
/** What was told, drawn: what is compared on how many samples in which places, what is looked at, when. */
import { computed } from "vue";

import type { Answers, Told } from "./told";
import NumberField from "@/parts/NumberField.vue";
import WideTable from "@/parts/WideTable.vue";
import { letterOf } from "@/parts/letters";

const answers = defineModel<Answers>({ required: true });
const props = defineProps<{ told: Told }>();
const MOST_ROWS = 12;
const MOST_SQUARES = 12;
const UNTIL_SAID = 4;
const places = computed(() => (props.told.places.length > 1 ? props.told.places : [""]));
const rows = computed(() =>
  props.told.treatments.slice(0, MOST_ROWS).map((one, i) => ({
    ...one,
    place: i,
    letter: letterOf(i),
    many: one.samples ?? props.told.each,
  })),
);
const KINDS: Record<string, string> = {
  untreated: "control, nothing done",
  placebo: "control, a sham",
  standard: "control, as today",
  reference: "control, known to work",
};
const ownNumbers = computed(() => props.told.treatments.some((one) => one.samples !== null));
const total = computed(() => {
  const each = props.told.treatments.map((one) => one.samples ?? props.told.each);
  if (!each.length || each.includes(null)) return 0;
  return each.reduce<number>((sum, one) => sum + (one ?? 0), 0) * places.value.length;
});
const scale = (one: Told["outcomes"][number]) => {
  const of = one.scale;
  switch (of.kind) {
    case "measurement":
      return of.unit ? `in ${of.unit}` : "in which unit?";
    case "grade":
      return one.open
        ? "graded, on which scale?"
        : `graded ${of.levels[0]?.label} to ${of.levels.at(-1)?.label}`;
    case "count":
      return of.of ? `counted, of ${of.of}` : "counted";
    case "percent":
      return "in percent";
    case "passfail":
      return `${of.pass_word} or ${of.fail_word}`;
    case "event":
      return "when it happens";
    default:
      return "by a chart of shades";
  }
};
</script>

<template>
  <section class="drawn" aria-label="The plan as it was understood">
    <WideTable v-if="rows.length" :stack="false">
      <table class="w-full" aria-label="What is compared">
        <thead>
          <tr>
            <th class="text-left font-normal text-soft" scope="col">Compared</th>
            <th v-for="place in places" :key="place" scope="col" class="pl-3 text-left font-normal text-soft">
              {{ place || "of each" }}
            </th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="one in rows" :key="one.letter">
            <th scope="row" class="py-1 pr-2 text-left align-top">
              <div class="flex items-baseline">
                <span class="letter" aria-hidden="true">{{ one.letter }}</span>
                <input
                  v-if="one.unnamed"
                  v-model="answers.names[one.place]"
                  class="field name"
                  :placeholder="one.name"
                  :aria-label="`Name of ${one.name}`"
                  autocomplete="off"
                /><span v-else>{{ one.name }}</span>
              </div>
              <span v-if="KINDS[one.kind]" class="block pl-[1.6em] text-[0.85rem] font-normal text-soft">{{
                KINDS[one.kind]
              }}</span>
            </th>
            <td v-for="place in places" :key="place" class="py-1 pl-3 align-top">
              <div class="flex items-start gap-2">
                <span class="num shrink-0">{{ one.many ?? "?" }}</span>
                <span class="squares mt-[6px]" :class="{ open: one.many === null }" aria-hidden="true"
                  ><i v-for="n in Math.min(one.many ?? UNTIL_SAID, MOST_SQUARES)" :key="n" /><template
                    v-if="(one.many ?? 0) > MOST_SQUARES"
                    >…</template
                  ></span
                >
              </div>
            </td>
          </tr>
        </tbody>
      </table>
      <p v-if="told.treatments.length > rows.length" class="text-soft">
        and {{ told.treatments.length - rows.length }} more
      </p>
    </WideTable>
    <div
      v-if="rows.length && (told.each === null || answers.each !== null) && !ownNumbers"
      class="mt-2 max-w-44"
    >
      <NumberField v-model="answers.each" label="how many of each" whole />
    </div>
    <p v-if="total" class="mt-1 text-[0.92rem] text-soft">
      <span class="num">{{ total }}</span> in all{{
        told.pieces > 1 ? `, ${told.pieces} ${told.piece || "pieces"} in each` : ""
      }}
    </p>
    <dl v-if="told.outcomes.length" class="mt-3">
      <div v-for="one in told.outcomes" :key="one.name" class="flex flex-wrap items-baseline gap-x-2">
        <dt class="font-bold">{{ one.name }}</dt>
        <dd>
          {{ scale(one) }}<span class="text-soft">, {{ one.better }} is better</span>
          <input
            v-if="one.open === 'unit' || answers.units[one.name] !== undefined"
            v-model="answers.units[one.name]"
            class="field unit ml-2"
            placeholder="kg"
            :aria-label="`Unit of ${one.name}`"
            autocomplete="off"
          />
        </dd>
      </div>
    </dl>
    <ol v-if="told.looks.length" class="looks mt-3" aria-label="Looks">
      <li v-for="one in told.looks.slice(0, MOST_ROWS)" :key="one.name">{{ one.name }}</li>
      <li v-if="told.looks.length > MOST_ROWS" class="text-soft">… {{ told.looks.at(-1)?.name }}</li>
    </ol>
  </section>
</template>

<style scoped>
.drawn {
  border: 2px solid var(--line);
  padding: 0.75rem;
}
.letter {
  display: inline-block;
  min-width: 1.6em;
  font-weight: 700;
}
.squares {
  display: flex;
  flex-wrap: wrap;
  gap: 3px;
  min-width: 3.5rem;
}
.squares i {
  width: 12px;
  height: 12px;
  background: var(--ink);
}
.squares.open i {
  background: none;
  border: 1px dashed var(--ink);
}
.name {
  max-width: 12rem;
  min-height: 44px;
  padding-block: 0.2rem;
}
.unit {
  display: inline-block;
  width: 5rem;
  min-height: 44px;
  padding-block: 0.2rem;
}
.looks {
  display: flex;
  flex-wrap: wrap;
  gap: 0.25rem 1rem;
  border-top: 3px solid var(--ink);
  padding-top: 0.35rem;
}
.looks li::before {
  content: "";
  display: inline-block;
  width: 3px;
  height: 0.7rem;
  margin-right: 0.35rem;
  background: var(--ink);
}
</style>
