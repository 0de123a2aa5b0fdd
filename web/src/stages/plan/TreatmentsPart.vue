<script setup lang="ts">
/** What is compared: treatments one by one, from factors, or taken over from earlier trials. */
import { computed, nextTick, ref, useId } from "vue";

import AddedLater from "./AddedLater.vue";
import CautionList from "@/parts/CautionList.vue";
import FactorGrid from "./FactorGrid.vue";
import GroupsPart from "./GroupsPart.vue";
import LibraryDialog from "./LibraryDialog.vue";
import PlanRow from "./PlanRow.vue";
import TreatmentRow from "./TreatmentRow.vue";
import { newKey, treatment } from "./fresh";
import { addedBlocks, isFresh } from "./later";
import { numbersBy, type Line } from "./lists";
import type { Plan, PlanAtWork } from "./usePlan";
import ProblemText from "@/parts/ProblemText.vue";

const plan = defineModel<Plan>({ required: true });
const props = defineProps<{ work: PlanAtWork }>();
const kindsAt = useId();
const kindsSay = computed(() =>
  ["kinds", ...plan.value.kinds.map((_, i) => `kinds.${i}`)].map((at) => props.work.says(at)).find(Boolean),
);
function setKinds(text: string): void {
  const names = text.split(/[,;\n]/).map((one) => one.trim());
  plan.value.kinds = names.filter(Boolean);
  // Nothing is kept to a kind that is gone.
  for (const one of [...plan.value.outcomes, ...plan.value.checkpoints])
    one.only.kinds = one.only.kinds.filter((name) => plan.value.kinds.includes(name));
}
const library = ref(false);
function add(): void {
  const samples = plan.value.treatments.at(-1)?.samples ?? 4;
  plan.value.treatments.push(
    treatment({
      samples,
      kind: plan.value.treatments.length || plan.value.agreement ? "treatment" : "standard",
    }),
  );
}
/** Enter goes on to the next name, and makes room for it. */
async function goOn(place: number): Promise<void> {
  if (place === plan.value.treatments.length - 1) add();
  await nextTick();
  document.querySelector<HTMLInputElement>(`input[aria-label="Name of treatment ${place + 2}"]`)?.focus();
}
/** A pasted list: the first line where it was pasted, the others after it. */
function paste(place: number, lines: Line[]): void {
  const all = plan.value.treatments;
  const here = all[place];
  if (!here) return;
  const made = lines.map((line, i) =>
    treatment({
      ...(i === 0 && !here.name.trim() ? here : { samples: here.samples }),
      name: line.name,
      // Which of a pasted list is the control is for a person to say.
      kind: "treatment",
      ...(line.many === null ? {} : { samples: line.many }),
    }),
  );
  all.splice(here.name.trim() ? place + 1 : place, here.name.trim() ? 0 : 1, ...made);
}
const saying = ref("");
const notUnderstood = ref("");
const saysAt = useId();
function number(): void {
  const found = numbersBy(saying.value, plan.value.treatments);
  notUnderstood.value =
    typeof found === "string"
      ? `“${found}” is no number here: “4”, “4, controls 8”, or a name and a number.`
      : "";
  if (typeof found === "string") return;
  found.forEach((many, i) => {
    const one = plan.value.treatments[i];
    if (one) one.samples = many;
  });
  saying.value = "";
}
const COUNTS: Record<Plan["layout"]["kind"], string> = {
  random: "of each, over all places",
  blocks: "of each, in every block",
  latin: "of each in all: one for each row of each square",
  split: "of each, in every whole plot of its level",
  pairs: "of each: one for every pair",
};
</script>

<template>
  <div>
    <PlanRow
      :title="plan.agreement ? 'What is read' : 'Treatments'"
      :hint="
        plan.agreement
          ? 'by every instrument: blanks, known amounts, other substances, and what is not known'
          : 'what is compared, a control among them'
      "
    >
      <p v-if="plan.treatments.length" class="mb-2 text-soft">
        The number is how many {{ work.sample.value.many }} {{ COUNTS[plan.layout.kind] }}.
      </p>
      <ul class="grid gap-2">
        <TreatmentRow
          v-for="(one, i) in plan.treatments"
          v-show="!isFresh(plan, one.key)"
          :key="one.key"
          v-model="plan.treatments[i]!"
          :place="i"
          :money="plan.money"
          :held="plan.agreement"
          :work="work"
          @out="plan.treatments.splice(i, 1)"
          @next="goOn(i)"
          @lines="(lines) => paste(i, lines)"
          @again="
            plan.treatments.splice(
              i + 1,
              0,
              treatment({
                ...one,
                key: undefined,
                name: `${one.name}, changed`,
                levels: {},
                doses: one.doses.map((dose) => ({ ...dose, key: newKey() })),
              }),
            )
          "
        />
      </ul>
      <div v-if="!work.amending.value" class="mt-3 flex flex-wrap gap-2">
        <button type="button" class="press press-small" data-adds @click="add">
          {{ plan.agreement ? "Add something to read" : "Add a treatment" }}
        </button>
        <button type="button" class="press press-small" @click="library = true">From earlier trials</button>
      </div>
      <div v-if="plan.treatments.length > 2 && !work.amending.value" class="mt-3 max-w-96">
        <label class="block"
          ><span class="mb-1 block text-[0.9rem] text-soft">Numbers for all at once</span>
          <span class="flex gap-2"
            ><input
              v-model="saying"
              class="field"
              autocomplete="off"
              placeholder="4, controls 8"
              :aria-invalid="notUnderstood ? 'true' : undefined"
              :aria-describedby="saysAt"
              @keydown.enter.prevent="number"
            /><button type="button" class="press press-small flex-none" @click="number">Set</button></span
          >
        </label>
        <ProblemText :id="saysAt" :says="notUnderstood" />
      </div>
      <ProblemText :says="work.says('treatments') ?? work.says('compare')" />
    </PlanRow>
    <CautionList
      v-if="work.judged.value?.clashes.length"
      class="mt-4"
      :cautions="[]"
      :clashes="work.judged.value.clashes"
    />
    <PlanRow
      v-if="work.amending.value || addedBlocks(plan).length"
      title="Added later"
      :hint="`more ${work.sample.value.many}, of a new treatment too, told as added at that moment`"
    >
      <AddedLater v-model="plan" :work="work" />
    </PlanRow>
    <PlanRow title="From factors" hint="where you vary something in steps, or several things at once">
      <FactorGrid v-model="plan" :work="work" />
    </PlanRow>
    <PlanRow title="Groups" hint="treatments that share cautions, cleaning, looks or outcomes">
      <GroupsPart v-model="plan" :work="work" />
    </PlanRow>
    <PlanRow
      :title="`Kinds of ${work.sample.value.one}`"
      :hint="`where one ${work.sample.value.one} cannot give everything: one for the pull, one for the twist`"
    >
      <label class="block max-w-96"
        ><span class="mb-1 block text-[0.9rem] text-soft">Their names, with commas between</span>
        <input
          class="field"
          autocomplete="off"
          placeholder="pull, twist"
          :value="plan.kinds.join(', ')"
          :aria-invalid="kindsSay ? 'true' : undefined"
          :aria-describedby="kindsAt"
          @change="setKinds(($event.target as HTMLInputElement).value)"
        />
      </label>
      <ProblemText :id="kindsAt" :says="kindsSay" />
      <p v-if="plan.kinds.length" class="mt-2 text-soft">
        Dealt in turn to the {{ work.sample.value.many }} of each treatment, so that each has its share of
        every kind. Which outcome belongs to which kind is said with the outcome.
      </p>
    </PlanRow>
    <LibraryDialog
      v-if="library"
      :taken="plan.treatments.map((one) => one.name)"
      @take="
        (one) => plan.treatments.push(treatment({ ...one, samples: plan.treatments.at(-1)?.samples ?? 4 }))
      "
      @close="library = false"
    />
  </div>
</template>
