<script setup lang="ts">
/** One treatment: its name, how many samples, what kind of control it is if any; more on demand. */
import { computed, ref } from "vue";

import PlanText from "./PlanText.vue";
import type { Treatment } from "./fresh";
import { pastedLines, type Line } from "./lists";
import type { Plan, PlanAtWork } from "./usePlan";
import NumberField from "@/parts/NumberField.vue";
import ProblemText from "@/parts/ProblemText.vue";
import TakeOut from "@/parts/TakeOut.vue";

const one = defineModel<Treatment>({ required: true });
const props = defineProps<{
  place: number;
  money: string;
  work: PlanAtWork;
  /** What instruments are held to, where that is what is asked. */
  held: Plan["agreement"];
}>();
const emit = defineEmits<{ out: []; again: []; next: []; lines: [lines: Line[]] }>();
function pasted(event: ClipboardEvent): void {
  const lines = pastedLines(event);
  if (lines) emit("lines", lines);
}
const KINDS = [
  { kind: "treatment", says: "on trial" },
  { kind: "untreated", says: "control: untreated" },
  { kind: "placebo", says: "control: placebo" },
  { kind: "standard", says: "control: usual way" },
  { kind: "reference", says: "control: known result" },
] as const;
/** What is known of what it holds. */
const known = computed({
  get: () => (one.value.other_substance ? "other" : one.value.holds === null ? "unknown" : "known"),
  set(what: "other" | "unknown" | "known") {
    one.value.other_substance = what === "other";
    one.value.holds = what === "unknown" ? null : 0;
  },
});
const more = ref(one.value.package || Boolean(one.value.note));
const at = (part: string) => `treatments.${props.place}.${part}`;
</script>

<template>
  <li>
    <div
      class="grid grid-cols-[1fr_5.2rem_44px] items-start gap-2 sm:grid-cols-[minmax(0,1fr)_4.6rem_minmax(0,11.5rem)_auto_44px]"
    >
      <PlanText
        v-model="one.name"
        :at="at('name')"
        :label="`Name of treatment ${place + 1}`"
        placeholder="Name, or paste a list"
        :work="work"
        @keydown.enter.prevent="emit('next')"
        @paste="pasted"
      />
      <NumberField
        :model-value="one.samples"
        :label="`Samples of treatment ${place + 1}`"
        hide-label
        whole
        needed
        :says="work.says(at('samples'))"
        @update:model-value="(n) => n !== null && (one.samples = n)"
      />
      <select
        v-if="held"
        v-model="known"
        class="field max-sm:col-start-1"
        :aria-label="`What is known of ${one.name || `entry ${place + 1}`}`"
      >
        <option value="unknown">holds: not known</option>
        <option value="known">holds so much</option>
        <option value="other">another substance</option>
      </select>
      <select
        v-else
        v-model="one.kind"
        class="field max-sm:col-start-1"
        :aria-label="`Kind of treatment ${place + 1}`"
      >
        <option v-for="kind in KINDS" :key="kind.kind" :value="kind.kind">{{ kind.says }}</option>
      </select>
      <button
        type="button"
        class="quiet"
        :aria-expanded="more"
        :aria-label="`${more ? 'Less' : 'More'} of treatment ${place + 1}`"
        @click="more = !more"
      >
        {{ more ? "Less" : "More" }}
      </button>
      <TakeOut
        class="max-sm:col-start-3 max-sm:row-start-1"
        :what="`treatment ${place + 1}`"
        @out="emit('out')"
      />
    </div>
    <div v-if="held && known === 'known'" class="mb-2 max-w-60">
      <NumberField
        :model-value="one.holds"
        label="It holds (0: a blank)"
        :unit="held.unit"
        needed
        :says="work.says(at('holds'))"
        @update:model-value="(n) => n !== null && (one.holds = n)"
      />
    </div>
    <ProblemText v-else-if="held" :says="work.says(at('holds'))" />
    <ProblemText :says="work.says(at('levels'))" />
    <div v-if="more" class="mb-3 grid gap-3 border-l-4 border-line py-2 pl-4 sm:grid-cols-[8rem_1fr]">
      <NumberField v-model="one.cost" :label="`Cost a sample, ${money}`" :says="work.says(at('cost'))" />
      <PlanText
        v-model="one.note"
        :at="at('note')"
        label="Note"
        :work="work"
        shown
        placeholder="maker, batch, how it is given"
      />
      <label class="flex min-h-11 items-center gap-3 sm:col-span-2"
        ><input v-model="one.package" type="checkbox" class="h-6 w-6 flex-none accent-ink" /> A package: it
        changes several things at once</label
      >
      <PlanText
        v-if="one.package"
        v-model="one.changes"
        class="sm:col-span-2"
        :at="at('changes')"
        label="All that it changes"
        :work="work"
        shown
        placeholder="sugar, lemon and warm water"
      />
      <button type="button" class="quiet justify-self-start" @click="emit('again')">
        Begin another from this one
      </button>
    </div>
  </li>
</template>
