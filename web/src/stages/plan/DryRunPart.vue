<script setup lang="ts">
/** Dry run: say what is really so, play the whole trial, and read the verdict it would give; or play a
 * hundred.
 */
import { computed, ref, watch } from "vue";

import DryRunDots from "./DryRunDots.vue";
import PlanRow from "./PlanRow.vue";
import TruthEditor from "./TruthEditor.vue";
import { useRehearsal } from "./useRehearsal";
import type { Plan, PlanAtWork } from "./usePlan";
import { LEVELS } from "@/parts/levels";
import { letterOf } from "@/parts/letters";
import ProblemText from "@/parts/ProblemText.vue";
import { answer, api, type Schemas } from "@/shell/api/client";
import { useAct } from "@/shell/act";

const plan = defineModel<Plan>({ required: true });
defineProps<{ work: PlanAtWork }>();
const imagined = ref<Schemas["Imagined"][]>([]);
const played = ref<Schemas["DryRun"]>();
const { busy, says, other, through } = useAct(["imagined"]);
const many = useRehearsal();
const rehearsal = many.rehearsal;
const RUNS = 100;
const letters = computed(() => new Map(plan.value.treatments.map((one, i) => [one.key, letterOf(i)])));

const play = (run: number) =>
  through(async () => {
    const out = await answer(
      api.POST("/api/dry-run", { body: { plan: plan.value, imagined: imagined.value, run } }),
    );
    played.value = out.run;
    if (!imagined.value.length) imagined.value = out.imagined;
  });
const playMany = () =>
  through(() => many.begin({ plan: plan.value, imagined: imagined.value, run: 0, runs: RUNS }));
// Another design has other truths: what is imagined begins anew with it.
watch(
  () => JSON.stringify([plan.value.treatments.map((one) => one.key), plan.value.outcomes]),
  () => {
    imagined.value = [];
    played.value = undefined;
    many.forget();
    void play(0);
  },
  { immediate: true },
);
watch(imagined, () => many.forget(), { deep: true });
const first = computed(() => played.value?.findings.find((one) => one.claim) ?? played.value?.findings[0]);
const outcome = computed(() => plan.value.outcomes.find((one) => one.key === first.value?.outcome));
const rest = computed(
  () => played.value?.findings.filter((one) => one.checkpoint === null && one !== first.value) ?? [],
);
const found = computed(() => rehearsal.value?.result);
const parts = computed(() =>
  found.value
    ? [
        { key: "right", name: "right", n: found.value.right, run: null },
        { key: "missed", name: "missed", n: found.value.missed, run: found.value.a_miss },
        { key: "none", name: "rightly none", n: found.value.rightly_none, run: null },
        { key: "wrong", name: "false alarms", n: found.value.false_alarms, run: found.value.a_false_alarm },
      ].filter((one) => one.n)
    : [],
);
</script>

<template>
  <div>
    <PlanRow title="Suppose that truly" hint="what nobody will know in the real trial">
      <TruthEditor
        v-for="(_, i) in imagined"
        :key="imagined[i]!.outcome"
        v-model="imagined[i]!"
        :at="`imagined.${i}`"
        :plan="plan"
        :letters="letters"
        :says="says"
      />
      <div class="mt-4 flex flex-wrap gap-3">
        <button
          type="button"
          class="press press-main"
          :disabled="busy"
          @click="play((played?.run ?? -1) + 1)"
        >
          {{ played ? "Play another trial" : "Play the trial" }}
        </button>
        <button type="button" class="press" :disabled="busy || many.running.value" @click="playMany">
          Play {{ RUNS }} of them
        </button>
      </div>
      <ProblemText :says="other" />
    </PlanRow>
    <PlanRow v-if="rehearsal" :title="`Out of ${rehearsal.runs} such trials`">
      <ProblemText :says="rehearsal.failed || many.lost.value" />
      <div v-if="!found && !rehearsal.failed">
        <div
          class="h-7 max-w-xl border-2 border-ink"
          role="progressbar"
          :aria-valuenow="rehearsal.done"
          aria-valuemin="0"
          :aria-valuemax="rehearsal.runs"
          :aria-label="`${rehearsal.done} of ${rehearsal.runs} played`"
        >
          <span
            class="block h-full bg-ink"
            :style="{ width: `${(100 * rehearsal.done) / rehearsal.runs}%` }"
          />
        </div>
        <p class="mt-1">
          {{ rehearsal.done }} of {{ rehearsal.runs }} played.
          <button type="button" class="quiet" @click="many.forget()">Stop</button>
        </p>
      </div>
      <template v-else-if="found">
        <div
          class="flex h-10 max-w-2xl font-bold"
          role="img"
          :aria-label="parts.map((one) => `${one.n} ${one.name}`).join(', ')"
        >
          <span
            v-for="one in parts"
            :key="one.key"
            class="share"
            :class="one.key"
            :style="{ flexGrow: one.n }"
            >{{ one.n }}</span
          >
        </div>
        <p class="mt-1 flex flex-wrap gap-x-6">
          <span v-for="one in parts" :key="one.key"
            ><b>{{ one.n }}</b> {{ one.name
            }}<button v-if="one.run !== null" type="button" class="quiet" @click="play(one.run!)">
              Show one
            </button></span
          >
        </p>
      </template>
    </PlanRow>
    <section v-if="played && first && outcome" class="sheet mt-5 p-5" aria-label="The trial that was played">
      <p class="text-soft">Trial {{ played.run + 1 }}, played</p>
      <p class="mt-1 text-[1.5rem] leading-tight font-bold">{{ first.sentence }}</p>
      <p class="mt-2 flex flex-wrap items-center gap-3">
        <b class="border-2 border-ink px-3 py-1">{{ LEVELS[first.strength.level] }}</b><span>{{
          first.strength.because
        }}</span>
      </p>
      <p class="mt-3 border-l-4 border-ink pl-3 text-[1.1rem]" data-test="ended">{{ played.says }}</p>
      <DryRunDots
        class="mt-4"
        :run="played"
        :finding="first"
        :outcome="outcome"
        :truth="imagined.find((one) => one.outcome === first!.outcome)"
        :letters="letters"
      />
      <ul v-if="rest.length" class="rule mt-4 pt-3">
        <li v-for="one in rest" :key="one.outcome" class="py-0.5">
          {{ one.sentence }}
          <span class="text-soft"
            >{{ LEVELS[one.strength.level] }}{{ one.claim ? "" : ", supporting" }}.</span
          >
        </li>
      </ul>
    </section>
  </div>
</template>

<style scoped>
.share {
  display: grid;
  place-items: center;
  min-width: 2.2rem;
}
.right {
  background: var(--ink);
  color: var(--sheet);
}
.none {
  background: var(--ink);
  color: var(--sheet);
}
.missed {
  background: repeating-linear-gradient(135deg, var(--line) 0 6px, var(--sheet) 6px 12px);
  border: 2px solid var(--ink);
}
.wrong {
  border: 2px solid var(--ink);
  background: var(--sheet);
}
</style>
