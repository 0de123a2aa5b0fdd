<script setup lang="ts">
/** What is looked at: each outcome as a sentence, opened to be changed. */
import { ref } from "vue";

import OutcomeEditor from "./OutcomeEditor.vue";
import { newKey, type Outcome, type Plan, type PlanAtWork } from "./usePlan";
import ProblemText from "@/parts/ProblemText.vue";
import { honest, scaleWords } from "@/parts/amounts";

const plan = defineModel<Plan>({ required: true });
const props = defineProps<{ work: PlanAtWork }>();
const open = ref<string | null>(null);
const BETTER = { more: "more is better", less: "less is better", target: "nearest the target is best" };

function add(): void {
  const key = newKey();
  plan.value.outcomes.push({
    key,
    name: "",
    scale: {
      kind: "grade",
      levels: ["nothing left", "poor", "middling", "good", "very good", "as new"].map((anchor, value) => ({ value, label: String(value), anchor })),
    },
    better: "more",
    target: null,
    margin: 1,
    expected: null,
    spread: null,
    primary: plan.value.outcomes.length === 0,
    summary: { kind: "value", checkpoint: null, baseline: null },
    checkpoints: [],
  });
  open.value = key;
}
const told = (outcome: Outcome) => `${scaleWords(outcome.scale)}, ${BETTER[outcome.better]}.`;
const troubled = (i: number) => props.work.problems.value.some((p) => p.at.startsWith(`outcomes.${i}.`)) && props.work.tried.value;
</script>

<template>
  <div>
    <ul class="grid gap-2">
      <li v-for="(outcome, i) in plan.outcomes" :key="outcome.key" class="sheet border-b-2 border-ink">
        <div class="flex items-center gap-2 pl-3">
          <p class="grow py-2">
            <b>{{ outcome.name || "New outcome" }}</b>, {{ told(outcome) }}
            <span v-if="outcome.margin" class="text-soft">A difference of {{ honest(outcome.margin) }} matters.</span>
            <span v-if="!outcome.primary" class="text-soft">Supporting.</span>
          </p>
          <button type="button" class="quiet flex-none" :aria-expanded="open === outcome.key" @click="open = open === outcome.key ? null : outcome.key">
            {{ open === outcome.key ? "Fold" : work.saved.value?.may_edit ? "Change" : "Show" }}
          </button>
          <button type="button" class="grid h-[46px] w-11 flex-none place-items-center text-[1.4rem]" :aria-label="`Take out ${outcome.name || 'outcome'}`" @click="plan.outcomes.splice(i, 1)">×</button>
        </div>
        <ProblemText v-if="troubled(i) && open !== outcome.key" class="px-3 pb-2" says="Something here needs mending: open it." />
        <OutcomeEditor v-if="open === outcome.key" v-model="plan.outcomes[i]!" :at="`outcomes.${i}`" :plan="plan" :work="work" />
      </li>
    </ul>
    <button type="button" class="press press-small mt-2" @click="add">Add an outcome</button>
    <ProblemText :says="work.says('outcomes')" />
  </div>
</template>
