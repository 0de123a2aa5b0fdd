<script setup lang="ts">
/** How an outcome is measured in a photo: from where its light is taken, what the object is, what of it
 * counts.
 */
import { computed } from "vue";

import type { Tool } from "./GaugeStage.vue";
import type { Marks } from "./marking";
import { type Recipe } from "./useGauge";
import ChoiceRow from "@/parts/ChoiceRow.vue";
import NumberField from "@/parts/NumberField.vue";
import ProblemText from "@/parts/ProblemText.vue";
import type { Schemas } from "@/shell/api/client";

export interface Pick {
  lab: [number, number, number];
  shown: string;
}
defineProps<{
  outcome: Schemas["GaugedOutcome"];
  looks: Schemas["GaugeLook"][];
  look: string;
  says: (at: string) => string | undefined;
  found: boolean;
  picks: { counts: Pick[]; ignores: Pick[]; steps: Pick[] };
}>();
const recipe = defineModel<Recipe>("recipe", { required: true });
const marks = defineModel<Marks>("marks", { required: true });
const tool = defineModel<Tool>("tool", { required: true });
const emit = defineEmits<{ drop: [list: "counts" | "ignores" | "steps", at: number] }>();
const set = (change: Partial<Recipe>) => (recipe.value = { ...recipe.value, ...change });
const measure = computed({ get: () => recipe.value.measure, set: (value) => set({ measure: value }) });
const outline = computed({ get: () => recipe.value.outline, set: (value) => set({ outline: value }) });
const reference = computed({
  get: () => marks.value.reference,
  set: (value) => {
    marks.value = { ...marks.value, reference: value };
    tool.value = value === "grey" || value === "white" ? "area" : "round";
  },
});
const tolerance = computed({ get: () => recipe.value.tolerance, set: (value) => set({ tolerance: value }) });
const smallest = computed({
  get: () => recipe.value.smallest,
  set: (value) => set({ smallest: value || 0.05 }),
});
const since = computed({
  get: () => (recipe.value.since_sample ? "" : recipe.value.since_look),
  set: (value) => set({ since_look: value, since_sample: value ? "" : recipe.value.since_sample }),
});
const other = computed({
  get: () => recipe.value.since_sample,
  set: (value) =>
    set({ since_sample: value.trim(), since_look: value.trim() ? "" : recipe.value.since_look }),
});
const mm = computed({
  get: () => marks.value.length?.mm ?? null,
  set: (value) => {
    if (marks.value.length && value)
      marks.value = { ...marks.value, length: { ...marks.value.length, mm: value } };
  },
});
const counts = computed(() => ["cover", "spots"].includes(recipe.value.measure));
const sized = computed(() => ["length", "area"].includes(recipe.value.measure));
const REFERENCES = [
  { value: "card" as const, name: "Photo card", says: "finds itself" },
  { value: "grey" as const, name: "Grey card", says: "mark it" },
  { value: "white" as const, name: "White paper", says: "mark it" },
  { value: "none" as const, name: "None", says: "no colours" },
];
const OUTLINES = [
  { value: "stands_out" as const, name: "What stands out", says: "from the ground inside the mark" },
  { value: "marked" as const, name: "All that is marked" },
];
</script>

<template>
  <div class="grid items-start gap-x-8 gap-y-5 lg:grid-cols-2">
    <ChoiceRow
      v-if="outcome.measures.length > 1"
      v-model="measure"
      class="lg:col-span-2"
      legend="What is measured"
      :choices="outcome.measures.map((one) => ({ value: one.key, name: one.words, says: one.unit }))"
    />
    <div class="lg:col-span-2">
      <ChoiceRow v-model="reference" legend="Light is taken from" :choices="REFERENCES" />
      <p v-if="reference === 'card'" class="mt-1 text-[0.94rem]" role="status">
        {{ found ? "The card is found, with its size and its colours." : "No card on this photo." }}
      </p>
      <button
        v-if="reference === 'grey' || reference === 'white'"
        type="button"
        class="press press-small mt-2"
        :class="{ 'press-main': tool === 'area' }"
        :aria-pressed="tool === 'area'"
        @click="tool = 'area'"
      >
        Mark the {{ reference === "grey" ? "grey card" : "white paper" }}
      </button>
      <ProblemText :says="says('marks.area')" />
    </div>
    <fieldset class="flex flex-wrap gap-2">
      <legend class="mb-1 text-[0.9rem] text-soft">
        Mark the {{ counts || sized ? "object" : "coloured part" }}
      </legend>
      <button
        type="button"
        class="press press-small"
        :class="{ 'press-main': tool === 'round' }"
        :aria-pressed="tool === 'round'"
        @click="tool = 'round'"
      >
        Round, by dragging
      </button>
      <button
        type="button"
        class="press press-small"
        :class="{ 'press-main': tool === 'outline' }"
        :aria-pressed="tool === 'outline'"
        @click="tool = 'outline'"
      >
        Outline, point by point
      </button>
    </fieldset>
    <ChoiceRow v-if="!sized" v-model="outline" legend="The object is" :choices="OUTLINES" />
    <div v-if="counts" class="grid gap-3">
      <div v-for="list in ['counts', 'ignores'] as const" :key="list">
        <p class="mb-1 text-[0.9rem] text-soft">
          {{ list === "counts" ? "This colour counts" : "This one does not" }}
        </p>
        <div class="flex flex-wrap items-center gap-2">
          <button
            v-for="(one, i) in picks[list]"
            :key="i"
            type="button"
            class="swatch"
            :style="{ background: one.shown }"
            :aria-label="`Take ${one.shown} out`"
            @click="emit('drop', list, i)"
          >
            <span aria-hidden="true">×</span>
          </button>
          <button
            type="button"
            class="press press-small"
            :class="{ 'press-main': tool === list }"
            :aria-pressed="tool === list"
            @click="tool = list"
          >
            Pick on the photo
          </button>
        </div>
      </div>
      <p v-if="!picks.counts.length" class="text-[0.94rem]">
        Nothing picked: what differs from its surroundings counts.
      </p>
      <ProblemText :says="says('recipe.counts')" />
      <div class="grid grid-cols-2 gap-3">
        <NumberField
          v-model="tolerance"
          label="Apart by at least"
          unit="ΔE"
          placeholder="by itself"
          :says="says('recipe.tolerance')"
        />
        <NumberField
          v-if="recipe.measure === 'spots'"
          v-model="smallest"
          label="Smallest spot"
          unit="% of it"
          :says="says('recipe.smallest')"
        />
      </div>
    </div>
    <div v-if="recipe.measure === 'shade'">
      <p class="mb-1 text-[0.9rem] text-soft">
        The chart{{ picks.steps.length ? ", as picked on the photo" : "" }}
      </p>
      <ol class="flex flex-wrap gap-1">
        <li v-for="(step, i) in outcome.steps" :key="step" class="w-16 text-center">
          <span
            class="block h-10 border-2 border-line"
            :style="{ background: (picks.steps[i]?.shown ?? outcome.swatches[i]) || 'transparent' }"
          /><b>{{ i + 1 }}</b>
        </li>
      </ol>
      <div class="mt-2 flex flex-wrap gap-2">
        <button
          type="button"
          class="press press-small"
          :class="{ 'press-main': tool === 'step' }"
          :aria-pressed="tool === 'step'"
          @click="tool = 'step'"
        >
          Pick the steps on the photo
        </button>
        <button v-if="picks.steps.length" type="button" class="quiet" @click="emit('drop', 'steps', -1)">
          Back to the plan’s colours
        </button>
      </div>
      <p v-if="tool === 'step'" class="mt-1 text-[0.94rem]">
        Tap step {{ picks.steps.length < outcome.steps.length ? picks.steps.length + 1 : 1 }} of the printed
        chart.
      </p>
      <ProblemText :says="says('recipe.steps')" />
    </div>
    <div v-if="recipe.measure === 'difference'" class="grid grid-cols-2 gap-3">
      <label class="block"
        ><span class="mb-1 block text-[0.9rem] text-soft">Since</span
        ><select v-model="since" class="field">
          <option value="">another sample</option>
          <option
            v-for="one in looks.filter((each) => each.key !== look && each.photos)"
            :key="one.key"
            :value="one.key"
          >
            {{ one.name }}
          </option>
        </select></label
      >
      <label v-if="!recipe.since_look" class="block"
        ><span class="mb-1 block text-[0.9rem] text-soft">Its code</span
        ><input v-model="other" class="field code" inputmode="numeric" autocomplete="off"
      /></label>
      <ProblemText class="col-span-2" :says="says('recipe.since_look')" />
    </div>
    <div
      v-if="sized && (!found || marks.reference !== 'card' || marks.length)"
      class="grid grid-cols-[auto_minmax(0,9rem)] items-end gap-3"
    >
      <button
        type="button"
        class="press press-small"
        :class="{ 'press-main': tool === 'length' }"
        :aria-pressed="tool === 'length'"
        @click="tool = 'length'"
      >
        Draw along a known length
      </button>
      <NumberField
        v-if="marks.length"
        v-model="mm"
        label="It is"
        unit="mm"
        needed
        :says="says('marks.length')"
      />
    </div>
  </div>
</template>

<style scoped>
.swatch {
  width: 48px;
  height: 44px;
  border: 2px solid var(--ink);
}
.swatch span {
  display: inline-block;
  padding: 0 0.35rem;
  background: #fbfcfa;
  color: #14201b;
  font-weight: 700;
}
</style>
