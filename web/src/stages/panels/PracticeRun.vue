<script setup lang="ts">
import { keys } from "@/shell/queryKeys";
import { copyText } from "@/parts/device";
import { sure } from "@/parts/sure";
/** A run of practice: one set after the other, and the truth at its end. */
import { useQuery } from "@tanstack/vue-query";
import { computed, ref } from "vue";

import BoothSet from "./BoothSet.vue";
import type { Booth, Judgement } from "./booth";
import NothingHere from "@/parts/NothingHere.vue";
import ProblemText from "@/parts/ProblemText.vue";
import { answer, api, trusted } from "@/shell/api/client";
import { Declined, problemsOf } from "@/shell/api/problems";
import { useAct } from "@/shell/act";
import { queryClient } from "@/shell/query";
import WideTable from "@/parts/WideTable.vue";

const props = defineProps<{ id: string }>();
const key = keys.practice(props.id);
const path = { params: { path: { practice_id: props.id } } };
const { data: run, error } = useQuery({
  queryKey: key,
  queryFn: () => answer(api.GET("/api/practice/{practice_id}", path)),
});
const next = computed(() => run.value?.sets.find((one) => one.answer === null));
const booth = computed<Booth>(() => ({
  number: 1,
  method: sure(run.value).method,
  question: sure(run.value).question,
  state: "open",
  consented: true,
  adults: false,
  allergens: "",
  dose: "",
  words_to_say: "",
  pause: 0,
  confidence: false,
  preference: false,
  each_once: true,
  material: sure(run.value).source,
  stopped: false,
  break_off: "",
  attributes: [],
  chips: [],
  free_words: false,
  names: [],
  sets: [],
  shows_a: false,
  due: null,
  until: null,
  card: false,
}));
const { other, through } = useAct([]);
const lock = (place: number, given: Judgement) =>
  through(async () => {
    queryClient.setQueryData(
      key,
      await answer(
        api.POST("/api/practice/{practice_id}/answers", { ...path, body: { place, answer: given.answer } }),
      ),
    );
    if (!next.value) await queryClient.invalidateQueries({ queryKey: keys.practice(), exact: true });
  });
async function load(set: number, place: number): Promise<Blob> {
  const response = await trusted(new Request(`/api/practice/${props.id}/sets/${set}/${place}`));
  if (!response.ok) throw new Declined(response.status, []);
  return await response.blob();
}
const thing = (letter: string) =>
  sure(run.value).source === "cups"
    ? letter === "A"
      ? sure(run.value).first
      : sure(run.value).second
    : letter === "A"
      ? "plain"
      : "other";
const given = (codes: readonly string[], answered: readonly number[] | null) =>
  (answered ?? []).map((place) => codes[place]).join(", ");
const copied = ref(false);
async function copy(): Promise<void> {
  await copyText(window.location.origin + sure(run.value).helper);
  copied.value = true;
}
</script>

<template>
  <NothingHere v-if="error" :says="problemsOf(error)[0]!.says" />
  <main
    v-else-if="run"
    class="sheet mx-auto flex min-h-dvh flex-col px-4 py-5"
    :class="run.source === 'pictures' ? 'max-w-4xl' : 'max-w-xl'"
  >
    <p class="flex justify-between text-soft">
      <RouterLink :to="{ name: 'practice' }">Practice</RouterLink
      ><span v-if="next">{{ next.place + 1 }} of {{ run.sets.length }}</span>
    </p>
    <ProblemText class="mt-2" :says="other" />
    <template v-if="next">
      <p v-if="run.helper && next.place === 0" class="mt-3 border-l-4 border-ink pl-3">
        Your helper pours from a sheet of their own. Do not look at it.
        <button type="button" class="quiet" @click="copy">{{ copied ? "Copied" : "Copy its link" }}</button>
      </p>
      <BoothSet
        :key="next.place"
        :booth="booth"
        :set="{
          id: String(next.place),
          session: 0,
          codes: next.codes,
          answered: false,
          stimulus: 0,
          over: '',
        }"
        :load="(place: number) => load(next!.place, place)"
        @lock="(one) => lock(next!.place, one)"
      />
    </template>
    <template v-else-if="run.told">
      <h1 class="mt-4">{{ run.told.says }}</h1>
      <p class="mt-2 text-soft">This is one person’s practice. It says nothing of what others notice.</p>
      <WideTable class="mt-5"
        ><table class="figures">
          <thead>
            <tr>
              <th scope="col">Set</th>
              <th scope="col">What it was</th>
              <th scope="col">You said</th>
              <th scope="col">Right</th>
            </tr>
          </thead>
          <tbody>
            <tr v-for="one in run.sets" :key="one.place">
              <td>{{ one.place + 1 }}</td>
              <td>
                <span v-for="(code, i) in one.codes" :key="code" class="mr-3 inline-block"
                  ><b class="code">{{ code === "R" ? "Ref." : code }}</b> {{ thing(one.order[i]!) }}</span
                >
              </td>
              <td class="code">{{ given(one.codes, one.answer) }}</td>
              <td>{{ one.right ? "yes" : "no" }}</td>
            </tr>
          </tbody>
        </table></WideTable
      >
    </template>
  </main>
</template>
