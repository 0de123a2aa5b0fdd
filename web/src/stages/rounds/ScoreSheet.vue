<script setup lang="ts">
import { sure } from "@/parts/sure";
/** The round as a sheet for a desk: driven by digits, arrows and Enter. */
import { defaultRangeExtractor, useWindowVirtualizer, type Range } from "@tanstack/vue-virtual";
import { computed, nextTick, onMounted, ref } from "vue";

import CannotDialog from "./CannotDialog.vue";
import RetestDialog from "./RetestDialog.vue";
import SheetRow from "./SheetRow.vue";
import TypeTwice from "./TypeTwice.vue";
import { askedOf } from "./steps";
import { saidOf, type Given, type How, type Outcome, type RoundAtWork, type RoundSample } from "./useRound";
import type { TimersAtWork } from "./useTimers";
import { unitOf } from "@/parts/amounts";
import PaperBeside from "@/parts/PaperBeside.vue";
import { trialChanged, usePhotos } from "@/shell/query";
import { tell } from "@/shell/arrival";
import { isListed, useKey, useListed } from "@/shell/shortcuts";

const props = defineProps<{ id: string; work: RoundAtWork; timers: TimersAtWork }>();
const round = computed(() => sure(props.work.round.value));
const paper = props.work.paper;
/** Whether a paper sheet is being typed a second time. */
const twice = ref(false);
const fromPaper = props.work.fromPaper;
/** Whether a photo of the paper stands beside the sheet. */
const besides = ref(false);
const table = ref<HTMLElement>();
/** Many columns need the room that what stands beside them would take. */
const many = computed(() => round.value.outcomes.length > 4);
/** What is read again. */
const again = ref<{ sample: RoundSample; outcome: Outcome } | null>(null);
const cannot = ref<{ sample: RoundSample; outcome: Outcome } | null>(null);
const last = computed(() => props.work.undoable.value.at(-1));

/** Of a long sheet only the rows in sight are there, some above and below them, and the one that is typed in:
 * a sheet of thousands is as light as one of fifty.
 */
const [ROW, FEW, AROUND, FRAMES] = [61, 300, 8, 20];
const active = ref(0);
const above = ref(0);
const rows = useWindowVirtualizer(
  computed(() => {
    const { samples, outcomes } = round.value;
    const typedIn = active.value;
    return {
      count: samples.length,
      estimateSize: () => ROW,
      overscan: samples.length * outcomes.length <= FEW ? samples.length : AROUND,
      scrollMargin: above.value,
      getItemKey: (row: number) => sure(samples[row]).id,
      rangeExtractor: (range: Range) =>
        [...new Set([typedIn, ...defaultRangeExtractor(range)])]
          .filter((row) => row < samples.length)
          .sort((a, b) => a - b),
    };
  }),
);
const body = ref<HTMLElement>();
onMounted(() => (above.value = (body.value?.getBoundingClientRect().top ?? 0) + window.scrollY));
const placeOf = (start: number) => ({ transform: `translateY(${start - above.value}px)` });
const measured = (found: unknown) => {
  const row = (found as { $el?: Element } | null)?.$el;
  if (row) rows.value.measureElement(row);
};

/** At once, so that the next key already lands in the next cell; a row out of sight is brought first. */
function focus(row: number, column: number): void {
  const field = () => table.value?.querySelector<HTMLInputElement>(`input[data-at="${row},${column}"]`);
  if (row < 0 || row >= round.value.samples.length) return;
  active.value = row;
  if (field()) {
    field()?.focus();
    return;
  }
  rows.value.scrollToIndex(row, { align: "center" });
  void broughtIn(field);
}
/** A row comes with one of the next frames. */
async function broughtIn(field: () => HTMLInputElement | null | undefined): Promise<void> {
  for (let frames = 0; frames < FRAMES && !field(); frames += 1)
    await new Promise((then) => window.requestAnimationFrame(then));
  field()?.focus();
}
/** Where a code is, in a sheet too long to look through. */
const sought = ref("");
const found = computed(() => {
  const code = sought.value.trim().toLowerCase();
  return code ? round.value.samples.findIndex((sample) => sample.code.toLowerCase() === code) : -1;
});
function go(): void {
  if (found.value < 0) return;
  const { outcomes, samples } = round.value;
  const sample = sure(samples[found.value]);
  const asked = askedOf(sample, outcomes);
  const open = asked.find((outcome) => !props.work.cellOf(sample, outcome)) ?? asked[0];
  focus(found.value, Math.max(0, open ? outcomes.indexOf(open) : 0));
  sought.value = "";
}
function step(row: number, column: number, by: "next" | "before" | "down" | "up"): void {
  const { outcomes, samples } = round.value;
  const columns = outcomes.length;
  const stride = by === "next" ? 1 : by === "before" ? -1 : by === "down" ? columns : -columns;
  const isAsked = (at: number) => {
    const sample = samples[Math.floor(at / columns)];
    return !sample?.skips.includes(sure(outcomes[at % columns]).key);
  };
  let flat = row * columns + column + stride;
  // Over what is not read on a sample.
  while (flat >= 0 && flat < samples.length * columns && !isAsked(flat)) flat += stride;
  if (flat >= 0) focus(Math.floor(flat / columns), flat % columns);
}
async function give(row: number, column: number, given: Given, how?: How): Promise<void> {
  const sample = sure(round.value.samples[row]);
  if (props.work.isOutside(sample) && !(await props.work.ask(sample))) return;
  const kept = props.work.write(sample, sure(round.value.outcomes[column]), saidOf(given, how));
  step(row, column, "next");
  // The next cell tells its own code as it takes the focus.
  tell("Kept");
  await kept;
}
async function undo(): Promise<void> {
  const undone = await props.work.undo();
  if (!undone) return;
  tell("Undone");
  const row = round.value.samples.findIndex((sample) => sample.id === undone.sample.id);
  focus(
    row,
    round.value.outcomes.findIndex((outcome) => outcome.key === undone.outcome.key),
  );
}
async function giveUp(reason: string): Promise<void> {
  const { sample, outcome } = sure(cannot.value);
  cannot.value = null;
  await props.work.write(sample, outcome, { kind: "cannot", reason });
  await nextTick();
  step(round.value.samples.indexOf(sample), round.value.outcomes.indexOf(outcome), "next");
}
/** What was given at the look before, where the plan shows it. */
const previous = computed(
  () => new Map(round.value.previous.map((one) => [`${one.sample}/${one.outcome}`, one] as const)),
);
useKey("u", "undo the last score", () => void undo());
useListed([
  { keys: "0–9", does: "give that grade and go on" },
  { keys: "Enter", does: "keep the value and go on" },
  { keys: "↑ ↓ ← →", does: "move over the sheet" },
  { keys: "Ctrl Z", does: "undo, also while typing" },
  { keys: "x", does: "cannot be scored" },
  { keys: "r", does: "read it again, beside the first" },
]);
const hints = computed(() =>
  round.value.outcomes.map((outcome) => {
    const scale = outcome.scale;
    if (scale.kind === "grade") return `${sure(scale.levels[0]).label} to ${sure(scale.levels.at(-1)).label}`;
    if (scale.kind === "passfail") return `1 ${scale.pass_word}, 0 ${scale.fail_word}`;
    if (scale.kind === "event") return "1 seen, 0 not yet";
    if (scale.kind === "shade") return `1 to ${scale.steps.length}`;
    if (scale.kind === "curve") return `${scale.unit} at ${scale.steps.join(", ")} ${scale.step_unit}`;
    if (scale.kind === "note") return scale.prompt;
    return unitOf(scale);
  }),
);
const first = computed(() => {
  for (const [row, sample] of round.value.samples.entries())
    for (const [column, outcome] of round.value.outcomes.entries())
      if (!sample.skips.includes(outcome.key) && !props.work.cellOf(sample, outcome))
        return `${row},${column}`;
  return "0,0";
});
const begin = first.value;
active.value = Number(begin.split(",")[0]);
onMounted(() => focus(...(begin.split(",").map(Number) as [number, number])));
const { data: photos } = usePhotos(() => props.id);
const photoOf = (outcome: string, level: number) =>
  [...(photos.value?.photos ?? [])]
    .reverse()
    .find((photo) => photo.outcome === outcome && photo.level === level)?.id;
const grades = computed(() =>
  round.value.outcomes.flatMap((o) =>
    o.scale.kind === "grade" ? [{ key: o.key, name: o.name, levels: [...o.scale.levels].reverse() }] : [],
  ),
);
</script>

<template>
  <TypeTwice v-if="twice" :id="id" :work="work" @close="twice = false" />
  <div
    v-else
    class="grid grow items-start gap-8 px-8 py-4"
    :class="
      besides
        ? ''
        : many
          ? 'min-[1700px]:grid-cols-[minmax(0,1fr)_300px]'
          : 'xl:grid-cols-[minmax(0,1fr)_300px]'
    "
  >
    <div class="sheet p-5">
      <div class="mb-2 flex flex-wrap items-center justify-between gap-3">
        <label v-if="!round.notebook" class="flex min-h-11 items-center gap-3"
          ><input v-model="paper" type="checkbox" class="h-6 w-6 flex-none accent-ink" /> Copied from a paper
          sheet: what I type is marked so</label
        >
        <button v-if="fromPaper" type="button" class="quiet" @click="twice = true">
          Type it a second time
        </button>
        <button v-if="many" type="button" class="quiet min-[1700px]:hidden" :disabled="!last" @click="undo">
          Undo{{ last ? ` ${last.sample.code}` : "" }}
        </button>
        <form v-if="round.samples.length > 40" class="flex items-center gap-2" @submit.prevent="go">
          <label for="sought">Go to code</label>
          <input id="sought" v-model="sought" class="field max-w-32" autocomplete="off" />
          <span v-if="sought && found < 0" role="status" class="text-soft">not on this sheet</span>
        </form>
      </div>
      <p v-if="work.seenSays.value" class="py-6 font-bold">Put the day right above, then type.</p>
      <PaperBeside v-model:shown="besides" what="the paper sheet" :off="!paper">
        <!-- A grid, not a table's own layout: rows out of sight are not there, however many there are. -->
        <table
          v-show="!work.seenSays.value"
          ref="table"
          class="block w-full"
          role="table"
          :aria-rowcount="round.samples.length + 1"
          :style="{ '--columns': round.outcomes.length, '--where': paper ? '12.5rem' : '6.6rem' }"
        >
          <caption class="sr-only">
            {{
              round.name
            }}: type a score for each sample
          </caption>
          <thead class="sticky top-0 z-10 block bg-sheet" role="rowgroup">
            <tr class="line items-end" role="row" aria-rowindex="1">
              <th class="pb-2 text-left" scope="col" role="columnheader">Sample</th>
              <th class="pb-2 text-left" scope="col" role="columnheader">Where</th>
              <th
                v-for="(outcome, column) in round.outcomes"
                :key="outcome.key"
                class="pb-2 text-left"
                scope="col"
                role="columnheader"
              >
                {{ outcome.name }}<br /><span class="font-normal text-soft">{{ hints[column] }}</span>
              </th>
            </tr>
          </thead>
          <tbody
            ref="body"
            class="relative block"
            role="rowgroup"
            :style="{ height: `${rows.getTotalSize()}px` }"
          >
            <SheetRow
              v-for="one in rows.getVirtualItems()"
              :key="String(one.key)"
              :ref="measured"
              class="line absolute inset-x-0 top-0"
              :data-index="one.index"
              :aria-rowindex="one.index + 2"
              :style="placeOf(one.start)"
              :sample="sure(round.samples[one.index])"
              :outcomes="round.outcomes"
              :row="one.index"
              :work="work"
              :before="previous"
              @focusin="active = one.index"
              @wait="(minutes, says) => timers.begin(sure(round.samples[one.index]).code, minutes, says)"
              @give="(column, given, how) => give(one.index, column, given, how)"
              @step="(column, by) => step(one.index, column, by)"
              @again="(outcome) => (again = { sample: sure(round.samples[one.index]), outcome })"
              @cannot="(outcome) => (cannot = { sample: sure(round.samples[one.index]), outcome })"
              @undo="undo"
            />
          </tbody>
        </table>
      </PaperBeside>
    </div>
    <aside v-if="!besides" class="sticky top-4 hidden" :class="many ? 'min-[1700px]:block' : 'xl:block'">
      <div v-for="one in grades" :key="one.name" class="mb-6">
        <h2>{{ one.name }}</h2>
        <dl class="mt-2">
          <div v-for="level in one.levels" :key="level.value" class="rule flex gap-4 py-1.5">
            <dt class="code w-6">{{ level.label }}</dt>
            <dd>{{ level.anchor }}</dd>
            <dd v-if="photoOf(one.key, level.value)" class="ml-auto flex-none">
              <img
                :src="`/api/photos/${photoOf(one.key, level.value)}.jpg?small=true`"
                :alt="`${one.name} ${level.label}`"
                class="h-14 w-[4.6rem] flex-none object-cover"
              />
            </dd>
          </div>
        </dl>
      </div>
      <button class="press w-full" :disabled="!last" @click="undo">
        Undo{{ last ? ` ${last.sample.code}` : "" }}
      </button>
      <p class="mt-3 text-soft">
        Type and go on; <kbd class="code">x</kbd> where it cannot be scored, <kbd class="code">r</kbd> to read
        one again. A square stays hollow until the server has it.
      </p>
      <button type="button" class="quiet -ml-2" @click="isListed = true">
        All keys (<kbd class="code">?</kbd>)
      </button>
      <RouterLink
        class="press press-main mt-4 w-full"
        :to="{ name: 'board', params: { id } }"
        @click="trialChanged(id)"
        >To the board</RouterLink
      >
    </aside>
    <RetestDialog
      v-if="again"
      :work="work"
      :sample="again.sample"
      :outcome="again.outcome"
      @done="again = null"
      @close="again = null"
    />
    <CannotDialog v-if="cannot" :code="cannot.sample.code" @give-up="giveUp" @close="cannot = null" />
  </div>
</template>

<style scoped>
.line {
  display: grid;
  grid-template-columns: 8.6rem var(--where) repeat(var(--columns), minmax(5.5rem, 1fr));
  align-items: center;
}
</style>
