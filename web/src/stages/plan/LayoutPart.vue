<script setup lang="ts">
/** How treatments are put on samples, where these stand, and when each starts. */
import LayoutPicture from "./LayoutPicture.vue";
import PlanRow from "./PlanRow.vue";
import { pastedLines } from "./lists";
import PlanText from "./PlanText.vue";
import StartValues from "./StartValues.vue";
import { nextTick } from "vue";
import { useRouter } from "vue-router";

import SharedSites from "./SharedSites.vue";
import { begun, block } from "./fresh";
import type { Plan, PlanAtWork } from "./usePlan";
import ChoiceRow from "@/parts/ChoiceRow.vue";
import DurationField from "@/parts/DurationField.vue";
import NumberField from "@/parts/NumberField.vue";
import ProblemText from "@/parts/ProblemText.vue";
import TakeOut from "@/parts/TakeOut.vue";

type Layout = Plan["layout"];
const plan = defineModel<Plan>({ required: true });
defineProps<{ work: PlanAtWork }>();
const KINDS: { value: Layout["kind"]; name: string; says: string }[] = [
  { value: "random", name: "All mixed", says: "one place, every position alike" },
  { value: "blocks", name: "Blocks", says: "every treatment in each of several places or days" },
  { value: "latin", name: "Latin square", says: "once in each row and each column" },
  { value: "split", name: "Split plot", says: "a hard factor on whole plots, the rest inside" },
  { value: "pairs", name: "Pairs", says: "two halves of one thing, one treatment each" },
];
const router = useRouter();
/** It has begun: what happened so far has a part of its own. */
async function take(): Promise<void> {
  plan.value.begun = begun();
  await nextTick();
  await router.push({ params: { part: "begun" } });
}
function choose(kind: Layout["kind"]): void {
  plan.value.layout.kind = kind;
  while (kind === "blocks" && plan.value.layout.blocks.length < 2) plan.value.layout.blocks.push(block());
  if (kind === "latin") for (const one of plan.value.treatments) one.samples = plan.value.treatments.length;
  if (kind === "split") for (const one of plan.value.treatments) one.samples = Math.min(one.samples, 2);
}
function gridded(wanted: boolean): void {
  const samples = plan.value.treatments.reduce((sum, one) => sum + one.samples, 0);
  const rows = Math.max(1, Math.floor(Math.sqrt(samples / 1.6)));
  plan.value.layout.grid = wanted
    ? { rows, columns: Math.ceil(samples / rows), guard_columns: false, guard_rows: false, edge: "used" }
    : null;
}
/** A pasted list: the first line where it was pasted, the others after it. */
function pastePlaces(event: ClipboardEvent, place: number): void {
  const lines = pastedLines(event);
  const here = plan.value.layout.blocks[place];
  if (!lines || !here) return;
  const fresh = !here.name.trim();
  const made = lines.map((line, i) => ({ ...(i === 0 && fresh ? here : block()), name: line.name }));
  plan.value.layout.blocks.splice(fresh ? place : place + 1, fresh ? 1 : 0, ...made);
}
</script>

<template>
  <div>
    <PlanRow title="Layout">
      <ChoiceRow
        :model-value="plan.layout.kind"
        legend="Layout"
        hide-legend
        :choices="KINDS"
        @update:model-value="choose"
      />
      <ProblemText :says="work.says('layout.kind') ?? work.says('layout')" />
      <div v-if="plan.layout.kind === 'split'" class="mt-4 grid gap-3 sm:grid-cols-2">
        <NumberField
          :model-value="plan.layout.whole_plots"
          :label="`Whole ${work.judged.value?.plot.many ?? 'plots'} of each level${plan.layout.blocks.length ? ', in each block' : ''}`"
          whole
          needed
          :says="work.says('layout.whole_plots')"
          @update:model-value="(n) => n !== null && (plan.layout.whole_plots = n)"
        />
        <PlanText
          v-model="plan.layout.plot_word"
          at="layout.plot_word"
          label="A whole plot is a"
          :work="work"
          shown
          placeholder="bed, oven load, tank"
        />
        <p v-if="!plan.factors.some((one) => one.hard)" class="sm:col-span-2">
          Mark a factor as hard to change under
          <RouterLink :to="{ params: { part: 'treatments' } }">Treatments</RouterLink>: its levels go to whole
          plots.
        </p>
      </div>
      <div v-if="plan.layout.kind === 'latin'" class="mt-4 grid gap-3 sm:grid-cols-2">
        <PlanText
          v-model="plan.layout.row_word"
          at="layout.row_word"
          label="A row is a"
          :work="work"
          shown
          placeholder="shelf, day"
        />
        <PlanText
          v-model="plan.layout.column_word"
          at="layout.column_word"
          label="A column is a"
          :work="work"
          shown
          placeholder="place on it, hour"
        />
      </div>
    </PlanRow>
    <PlanRow
      v-if="plan.layout.kind === 'blocks' || plan.layout.kind === 'split'"
      title="Blocks"
      :hint="
        plan.layout.kind === 'split'
          ? 'if the plots lie in several places'
          : 'benches, rooms, days: compared only inside each'
      "
    >
      <ul class="grid gap-2">
        <li
          v-for="(one, i) in plan.layout.blocks"
          :key="one.key"
          class="grid grid-cols-[minmax(0,1fr)_44px] items-start gap-2 sm:grid-cols-[minmax(0,1fr)_minmax(0,1fr)_8.6rem_44px]"
        >
          <PlanText
            v-model="one.name"
            :at="`layout.blocks.${i}.name`"
            :label="`Name of place ${i + 1}`"
            placeholder="Porch, or paste a list"
            :work="work"
            @paste="(event: ClipboardEvent) => pastePlaces(event, i)"
          />
          <PlanText
            v-model="one.note"
            class="max-sm:col-start-1"
            :at="`layout.blocks.${i}.note`"
            :label="`What place ${i + 1} is like`"
            placeholder="9 °C, shade"
            :work="work"
          />
          <DurationField
            v-model="one.starts"
            class="max-sm:col-start-1"
            :label="`Place ${i + 1} starts later by`"
            hide-label
            :says="work.says(`layout.blocks.${i}.starts`)"
          />
          <TakeOut
            class="max-sm:col-start-2 max-sm:row-start-1"
            :what="`place ${i + 1}`"
            @out="plan.layout.blocks.splice(i, 1)"
          />
        </li>
      </ul>
      <p v-if="plan.layout.blocks.length" class="mt-1 text-[0.92rem] text-soft">
        The time is how much later a place starts than the first one.
      </p>
      <button
        type="button"
        class="press press-small mt-2"
        data-adds
        @click="plan.layout.blocks.push(block())"
      >
        Add a place
      </button>
      <SharedSites
        v-if="work.editable.value && !work.amending.value"
        v-model="plan.layout.blocks"
        :secrets="plan.treatments.map((one) => one.name)"
      />
      <ProblemText :says="work.says('layout.blocks')" />
    </PlanRow>
    <PlanRow
      v-if="plan.layout.kind === 'random' || plan.layout.kind === 'blocks'"
      title="Places on a grid"
      hint="a bench, a bed, a shelf"
    >
      <label class="flex min-h-11 items-center gap-3"
        ><input
          type="checkbox"
          class="h-6 w-6 flex-none accent-ink"
          :checked="plan.layout.grid !== null"
          @change="gridded(($event.target as HTMLInputElement).checked)"
        />
        They stand in rows and columns{{ plan.layout.kind === "blocks" ? ", in each block" : "" }}</label
      >
      <template v-if="plan.layout.grid">
        <div class="mt-2 grid gap-3 sm:grid-cols-3">
          <NumberField
            :model-value="plan.layout.grid.rows"
            label="Rows"
            whole
            needed
            :says="work.says('layout.grid.rows')"
            @update:model-value="(n) => n !== null && plan.layout.grid && (plan.layout.grid.rows = n)"
          />
          <NumberField
            :model-value="plan.layout.grid.columns"
            label="Columns"
            whole
            needed
            :says="work.says('layout.grid.columns')"
            @update:model-value="(n) => n !== null && plan.layout.grid && (plan.layout.grid.columns = n)"
          />
          <label class="block"
            ><span class="mb-1 block text-[0.9rem] text-soft">The edge</span>
            <select v-model="plan.layout.grid.edge" class="field">
              <option value="used">used like the rest</option>
              <option value="shared">shared out evenly</option>
              <option value="guarded">left to guards</option>
            </select>
          </label>
        </div>
        <div class="flex flex-wrap gap-x-6">
          <label class="flex min-h-11 items-center gap-2"
            ><input v-model="plan.layout.grid.guard_columns" type="checkbox" class="h-5 w-5 accent-ink" /> a
            guard between neighbours in a row</label
          >
          <label class="flex min-h-11 items-center gap-2"
            ><input v-model="plan.layout.grid.guard_rows" type="checkbox" class="h-5 w-5 accent-ink" /> a
            guard row between rows</label
          >
        </div>
      </template>
    </PlanRow>
    <PlanRow v-if="!plan.begun" title="It runs already?">
      <p>
        Sown, set up or soaking since some day, and looked at perhaps: then it is taken up as it stands, with
        its own days and places, and sealed as of now.
      </p>
      <button type="button" class="press press-small mt-2" @click="take">It has begun</button>
    </PlanRow>
    <PlanRow v-if="!plan.begun" title="Start" hint="each sample has its own clock">
      <DurationField
        v-model="plan.layout.stagger"
        class="max-w-56"
        label="From one start to the next"
        :says="work.says('layout.stagger')"
      />
    </PlanRow>
    <StartValues v-if="!plan.begun" v-model="plan" :work="work" />
    <LayoutPicture :plan="plan" :sealed="Boolean(work.saved.value?.sealed)" />
  </div>
</template>
