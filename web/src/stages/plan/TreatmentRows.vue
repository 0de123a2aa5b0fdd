<script setup lang="ts">
/** What is compared: a name, how many samples of it, and what kind of control it is if any. */
import { newKey, type Plan, type PlanAtWork } from "./usePlan";
import NumberField from "@/parts/NumberField.vue";
import PlanText from "./PlanText.vue";
import ProblemText from "@/parts/ProblemText.vue";

const plan = defineModel<Plan>({ required: true });
defineProps<{ work: PlanAtWork }>();
const KINDS = [
  { kind: "treatment", says: "on trial" },
  { kind: "untreated", says: "control: untreated" },
  { kind: "placebo", says: "control: placebo" },
  { kind: "standard", says: "control: usual way" },
  { kind: "reference", says: "control: known result" },
] as const;
function add(): void {
  const samples = plan.value.treatments.at(-1)?.samples ?? 4;
  const first = plan.value.treatments.length === 0;
  plan.value.treatments.push({ key: newKey(), name: "", kind: first ? "standard" : "treatment", samples, note: "" });
}
</script>

<template>
  <div>
    <div class="mb-3 flex flex-wrap items-center gap-x-3">
      <label for="word">One sample is a</label>
      <input id="word" v-model="plan.sample_word" class="field max-w-40" placeholder="pot, board, stem …" autocomplete="off" />
      <span class="text-soft">{{ work.says("sample_word") }}</span>
    </div>
    <ul class="grid gap-2">
      <li v-for="(treatment, i) in plan.treatments" :key="treatment.key" class="grid grid-cols-[1fr_5.2rem_44px] items-start gap-2 sm:grid-cols-[minmax(0,1fr)_5.4rem_minmax(0,11.5rem)_44px]">
        <PlanText v-model="treatment.name" :at="`treatments.${i}.name`" :label="`Name of treatment ${i + 1}`" placeholder="Name" :work="work" />
        <NumberField :model-value="treatment.samples" :label="`Samples of treatment ${i + 1}`" hide-label whole needed :says="work.says(`treatments.${i}.samples`)" @update:model-value="(n) => n !== null && (treatment.samples = n)" />
        <select v-model="treatment.kind" class="field max-sm:col-span-2 max-sm:col-start-1" :aria-label="`Kind of treatment ${i + 1}`">
          <option v-for="one in KINDS" :key="one.kind" :value="one.kind">{{ one.says }}</option>
        </select>
        <button type="button" class="grid h-[46px] w-11 place-items-center text-[1.4rem] max-sm:col-start-3 max-sm:row-start-1" :aria-label="`Take out treatment ${i + 1}`" @click="plan.treatments.splice(i, 1)">×</button>
      </li>
    </ul>
    <button type="button" class="press press-small mt-2" @click="add">Add a treatment</button>
    <p v-if="plan.treatments.length" class="mt-2 text-soft">
      The number is how many {{ plan.sample_word || "sample" }}s of each{{ plan.layout.kind === "blocks" ? ", in every place" : "" }}.
    </p>
    <ProblemText :says="work.says('treatments')" />
  </div>
</template>
