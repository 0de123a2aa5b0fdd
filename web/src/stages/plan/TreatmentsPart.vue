<script setup lang="ts">
/** What is compared: treatments one by one, from factors, or taken over from earlier trials. */
import { ref } from "vue";

import CautionList from "@/parts/CautionList.vue";
import FactorGrid from "./FactorGrid.vue";
import LibraryDialog from "./LibraryDialog.vue";
import PlanRow from "./PlanRow.vue";
import TreatmentRow from "./TreatmentRow.vue";
import { newKey, treatment } from "./fresh";
import type { Plan, PlanAtWork } from "./usePlan";
import ProblemText from "@/parts/ProblemText.vue";

const plan = defineModel<Plan>({ required: true });
defineProps<{ work: PlanAtWork }>();
const library = ref(false);
function add(): void {
  const samples = plan.value.treatments.at(-1)?.samples ?? 4;
  plan.value.treatments.push(
    treatment({ samples, kind: plan.value.treatments.length ? "treatment" : "standard" }),
  );
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
    <PlanRow title="Treatments" hint="what is compared, a control among them">
      <p v-if="plan.treatments.length" class="mb-2 text-soft">
        The number is how many {{ work.sample.value.many }} {{ COUNTS[plan.layout.kind] }}.
      </p>
      <ul class="grid gap-2">
        <TreatmentRow
          v-for="(one, i) in plan.treatments"
          :key="one.key"
          v-model="plan.treatments[i]!"
          :place="i"
          :money="plan.money"
          :work="work"
          @out="plan.treatments.splice(i, 1)"
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
      <div class="mt-3 flex flex-wrap gap-2">
        <button type="button" class="press press-small" data-adds @click="add">Add a treatment</button>
        <button type="button" class="press press-small" @click="library = true">From earlier trials</button>
      </div>
      <ProblemText :says="work.says('treatments') ?? work.says('compare')" />
    </PlanRow>
    <CautionList
      v-if="work.judged.value?.clashes.length"
      class="mt-4"
      :cautions="[]"
      :clashes="work.judged.value.clashes"
    />
    <PlanRow title="From factors" hint="where you vary something in steps, or several things at once">
      <FactorGrid v-model="plan" :work="work" />
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
