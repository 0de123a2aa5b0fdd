<script setup lang="ts">
import { keys } from "@/shell/queryKeys";
/** What do we know about …? Over all trials: where something stands, how it fared, and the same question of
 * several trials taken together.
 */
import { useQuery } from "@tanstack/vue-query";
import { computed, ref } from "vue";

import ForestChart from "@/charts/ForestChart.vue";
import ProblemText from "@/parts/ProblemText.vue";
import TallyStrokes from "@/parts/TallyStrokes.vue";
import { honest } from "@/parts/amounts";
import { LEVELS } from "@/parts/levels";
import { answer, api, type Schemas } from "@/shell/api/client";
import { problemsOf } from "@/shell/api/problems";
import { useAct } from "@/shell/act";

const STATES: Record<string, string> = {
  draft: "draft",
  sealed: "sealed",
  running: "running",
  opened: "concluded",
};
const typed = ref("");
const about = ref("");
const {
  data,
  error: unfound,
  isPaused: foundPaused,
} = useQuery({
  queryKey: keys.known(about),
  queryFn: () => answer(api.GET("/api/known", { params: { query: { about: about.value } } })),
  enabled: computed(() => about.value.length > 0),
});
const {
  data: shared,
  error: unshared,
  isPaused: sharedPaused,
} = useQuery({
  queryKey: keys.sharedQuestions(),
  queryFn: () => answer(api.GET("/api/shared-questions")),
});
const told = ref<{ question: Schemas["Shared"]; found: Schemas["Combined"] } | null>(null);
const { busy, other, through } = useAct([]);
const together = (question: Schemas["Shared"]) =>
  through(async () => {
    const { trials, a, b, outcome } = question;
    told.value = {
      question,
      found: await answer(api.POST("/api/combined", { body: { trials: [...trials], a, b, outcome } })),
    };
  });
/** How often each treatment that was found came first, over outcomes and trials. */
const firsts = computed(() => {
  const rows = new Map<string, { first: number; of: number }>();
  for (const one of data.value?.fared ?? []) {
    const row = rows.get(one.treatment) ?? { first: 0, of: 0 };
    rows.set(one.treatment, { first: row.first + Number(one.place === 1), of: row.of + 1 });
  }
  return [...rows];
});
/** Why nothing can be told now: not that there is nothing. */
const away = computed(() => {
  if ((foundPaused.value && about.value) || (sharedPaused.value && !shared.value))
    return "No connection: what is known over all trials is asked from the server. It is looked up as soon as there is one.";
  const error = unfound.value ?? unshared.value;
  return error ? (problemsOf(error)[0]?.says ?? "") : "";
});
const nothing = computed(() => data.value && !data.value.trials.length && !data.value.fared.length);
</script>

<template>
  <div class="mx-auto max-w-6xl p-4 lg:px-8 lg:py-6">
    <main class="sheet mt-4 p-4 lg:p-8">
      <h1>What do we know?</h1>
      <form
        class="mt-3 flex max-w-2xl flex-wrap items-end gap-3"
        role="search"
        @submit.prevent="about = typed.trim()"
      >
        <label class="block min-w-60 flex-1"
          ><span class="mb-1 block text-[0.9rem] text-soft">About a treatment, a trial, an outcome</span
          ><input v-model="typed" class="field" type="search" maxlength="200" placeholder="seaweed"
        /></label>
        <button class="press press-main" :disabled="!typed.trim()">Look</button>
      </form>
      <ProblemText class="mt-3" :says="away" />
      <p v-if="nothing" class="mt-4 font-bold" role="status">Nothing of yours tells of “{{ about }}”.</p>
      <template v-if="data?.fared.length">
        <h2 class="mt-6">How it fared</h2>
        <dl class="mt-2 grid gap-2">
          <div v-for="[name, row] in firsts" :key="name" class="flex flex-wrap items-center gap-x-4">
            <dt class="min-w-56 font-bold">{{ name }}</dt>
            <dd class="flex items-center gap-3">
              <TallyStrokes
                :solid="row.first"
                :rest="row.of - row.first"
                :label="`first in ${row.first} of ${row.of}`"
              />first in {{ row.first }} of {{ row.of }}
            </dd>
          </div>
        </dl>
        <ul class="mt-3">
          <li v-for="one in data.fared" :key="one.trial + one.treatment + one.outcome" class="rule py-3">
            <p>
              <RouterLink class="font-bold" :to="{ name: 'verdict', params: { id: one.trial } }">{{
                one.title
              }}</RouterLink>, {{ one.outcome }}: {{ one.treatment }} came
              {{ one.place === 1 ? "first" : `${one.place}.` }} of {{ one.of
              }}{{ one.estimate === null ? "" : ` with ${honest(one.estimate)} ${one.unit}` }} ({{
                LEVELS[one.level]?.toLowerCase()
              }}).
            </p>
            <p class="text-soft">{{ one.sentence }}</p>
          </li>
        </ul>
      </template>
      <template v-if="data?.trials.length">
        <h2 class="mt-6">Trials with these words</h2>
        <ul>
          <li v-for="one in data.trials" :key="one.id" class="rule py-2">
            <RouterLink class="font-bold" :to="{ name: 'board', params: { id: one.id } }">{{
              one.title
            }}</RouterLink>, {{ STATES[one.state] }} <span class="text-soft">{{ one.question }}</span>
          </li>
        </ul>
      </template>
      <section class="rule mt-8 pt-5" aria-label="Taken together">
        <h2>The same question, several trials</h2>
        <p v-if="shared && !shared.questions.length" class="mt-1 max-w-3xl text-soft">
          Once two concluded trials hold the same two treatments against each other on an outcome of the same
          name, they can be taken together here.
        </p>
        <ul v-else-if="shared" class="mt-1">
          <li
            v-for="one in shared.questions"
            :key="one.a + one.b + one.outcome"
            class="rule flex flex-wrap items-center justify-between gap-3 py-2"
          >
            <span
              ><b>{{ one.a }}</b> and <b>{{ one.b }}</b> in {{ one.outcome }},
              {{ one.trials.length }} trials</span
            ><button class="press press-small" :disabled="busy" @click="together(one)">
              Take them together
            </button>
          </li>
        </ul>
        <ProblemText :says="other" />
        <div v-if="told" class="mt-5" aria-live="polite">
          <p class="max-w-4xl text-[1.45rem] leading-tight font-bold">{{ told.found.says }}</p>
          <ForestChart
            class="mt-4"
            :found="told.found"
            :a="told.question.a"
            :b="told.question.b"
            :unit="told.question.unit"
          />
          <p class="mt-2 text-soft">
            Heterogeneity: Q {{ honest(told.found.q, 3) }} (p {{ honest(told.found.q_p, 2) }}), I²
            {{ Math.round(100 * told.found.i_squared) }} %.
          </p>
        </div>
      </section>
    </main>
  </div>
</template>
