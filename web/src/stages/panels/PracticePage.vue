<script setup lang="ts">
import { keys } from "@/shell/queryKeys";
import { sure } from "@/parts/sure";
/** Practice: testing oneself in repeated sets.  One's own record, never part of a panel. */
import { useQuery } from "@tanstack/vue-query";
import { computed, reactive, ref } from "vue";
import { useRouter } from "vue-router";

import { METHODS } from "./methods";
import AskSheet from "@/parts/AskSheet.vue";
import ChoiceRow from "@/parts/ChoiceRow.vue";
import LabelledField from "@/parts/LabelledField.vue";
import NumberField from "@/parts/NumberField.vue";
import ProblemText from "@/parts/ProblemText.vue";
import TallyStrokes from "@/parts/TallyStrokes.vue";
import { day } from "@/parts/moments";
import { answer, api, type Schemas } from "@/shell/api/client";
import { useAct } from "@/shell/act";
import { queryClient } from "@/shell/query";

const router = useRouter();
const { data } = useQuery({ queryKey: keys.practice(), queryFn: () => answer(api.GET("/api/practice")) });
const wanted = reactive<Required<Schemas["PracticeIn"]>>({
  method: "triangle",
  sets: 12,
  source: "sounds",
  step: 3,
  first: "",
  second: "",
});
const CHOICES = METHODS.filter((one) => ["triangle", "tetrad", "duo-trio", "abx"].includes(one.key)).map(
  (one) => ({ value: one.key, name: one.name, says: one.says }),
);
const SOURCES = [
  { value: "sounds", name: "Two chords", says: "One tone in one of them is off." },
  { value: "pictures", name: "Two leaves", says: "One of them is a little yellower." },
  { value: "cups", name: "Your own cups", says: "A helper pours what you name, from a sheet of their own." },
];
const FAR = ["hardly apart", "a little", "some", "clearly", "plainly apart"];
const step = computed({
  get: () => String(wanted.step),
  set: (value: string) => (wanted.step = Number(value)),
});
const zone = Intl.DateTimeFormat().resolvedOptions().timeZone;
const { busy, says, other, through } = useAct(["method", "sets", "source", "step", "first", "second"]);
const begin = () =>
  through(async () => {
    const made = await answer(api.POST("/api/practice", { body: { ...wanted } }));
    await queryClient.invalidateQueries({ queryKey: keys.practice() });
    await router.push({ name: "practice-run", params: { id: made.id } });
  });
const removing = ref<Schemas["PracticeOut"] | null>(null);
const remove = () =>
  through(async () => {
    const id = sure(removing.value).id;
    removing.value = null;
    await answer(api.DELETE("/api/practice/{practice_id}", { params: { path: { practice_id: id } } }));
    await queryClient.invalidateQueries({ queryKey: keys.practice() });
  });
const nameOf = (method: string) => METHODS.find((one) => one.key === method)?.name ?? method;
const of = (run: Schemas["PracticeOut"]) =>
  run.source === "cups"
    ? `${run.first} and ${run.second}`
    : `${run.source === "sounds" ? "two chords" : "two leaves"}, ${FAR[run.step - 1]}`;
</script>

<template>
  <div class="mx-auto max-w-6xl px-4 pb-10 lg:px-8">
    <main class="sheet grid items-start gap-8 p-4 lg:grid-cols-[minmax(0,1fr)_26rem] lg:p-8">
      <form class="grid gap-5" @submit.prevent="begin">
        <div>
          <h1>Practise</h1>
          <p class="mt-1">
            Can you tell at all? Take a run of sets, each answered before the next, and see the truth when the
            run is done. It is your own record: no panel ever counts it, and nobody else sees it.
          </p>
        </div>
        <ChoiceRow v-model="wanted.source" legend="With what?" :choices="SOURCES" />
        <div v-if="wanted.source === 'cups'" class="grid gap-3 sm:grid-cols-2">
          <LabelledField
            v-model="wanted.first"
            label="The helper pours"
            placeholder="tap water"
            :says="says('first')"
          />
          <LabelledField
            v-model="wanted.second"
            label="or"
            placeholder="tap water with a pinch of salt"
            :says="says('second')"
          />
        </div>
        <ChoiceRow
          v-else
          v-model="step"
          legend="How far apart?"
          :choices="FAR.map((name, i) => ({ value: String(i + 1), name }))"
        />
        <ChoiceRow v-model="wanted.method" legend="Which test?" :choices="CHOICES" />
        <NumberField
          :model-value="wanted.sets"
          class="max-w-40"
          label="Sets"
          whole
          needed
          :says="says('sets')"
          @update:model-value="(value) => (wanted.sets = value ?? 0)"
        />
        <ProblemText :says="other ?? says('method') ?? says('source')" />
        <button class="press press-main justify-self-start" :disabled="busy">Begin the run</button>
      </form>
      <section>
        <h2>Your record</h2>
        <p v-if="data && !data.runs.length" class="mt-2">There is no run yet.</p>
        <ul class="mt-2 grid gap-3">
          <li v-for="run in data?.runs" :key="run.id" class="border-t-2 border-line pt-2">
            <div class="flex items-baseline justify-between gap-3">
              <b>{{ nameOf(run.method) }}</b><span class="text-soft">{{ day(run.begun_at, zone) }}</span>
            </div>
            <p>{{ of(run) }}</p>
            <template v-if="run.told"
              ><TallyStrokes
                :solid="run.told.right"
                :rest="run.told.n - run.told.right"
                :label="`${run.told.right} of ${run.told.n} right`"
              />
              <p>{{ run.told.says }}</p></template
            >
            <p class="flex gap-4">
              <RouterLink
                class="quiet inline-flex items-center"
                :to="{ name: 'practice-run', params: { id: run.id } }"
                >{{ run.told ? "See each set" : "Go on" }}</RouterLink><button
                type="button"
                class="quiet"
                @click="removing = run"
              >
                Remove
              </button>
            </p>
          </li>
        </ul>
      </section>
    </main>
    <AskSheet
      v-if="removing"
      title="Remove this run?"
      says="It goes from your record for good."
      go="Remove it"
      @go="remove"
      @close="removing = null"
    />
  </div>
</template>
