<script setup lang="ts">
import { keys } from "@/shell/queryKeys";
import { sure } from "@/parts/sure";
/** A set to grade: one picture after the other, each answer locked; at the end the truth beside what was
 * given.
 */
import { useQuery } from "@tanstack/vue-query";
import { computed } from "vue";

import LearnedView from "./LearnedView.vue";
import ScorePads from "../ScorePads.vue";
import NothingHere from "@/parts/NothingHere.vue";
import ProblemText from "@/parts/ProblemText.vue";
import TallyStrokes from "@/parts/TallyStrokes.vue";
import { honest, reading } from "@/parts/amounts";
import { day } from "@/parts/moments";
import { useAct } from "@/shell/act";
import { answer, api } from "@/shell/api/client";
import { problemsOf } from "@/shell/api/problems";
import { queryClient } from "@/shell/query";

const props = defineProps<{ id: string; set: string }>();
const OFTEN_ASKED = 40;
const MOST_ASKED = 140;
const key = keys.trainingSet(props.set);
const path = { params: { path: { set_id: props.set } } };
const { data: run, error } = useQuery({
  queryKey: key,
  queryFn: () => answer(api.GET("/api/training/{set_id}", path)),
  // The gauge reads the pictures of a finished set in the background: asked often at first, then less.
  refetchInterval: ({ state }) => {
    if (!state.data?.ended || state.data.duel || state.dataUpdateCount > MOST_ASKED) return false;
    return state.dataUpdateCount < OFTEN_ASKED ? 1_500 : 6_000;
  },
});
const next = computed(() => run.value?.things.find((one) => one.given === null));
const done = computed(() => run.value?.things.filter((one) => one.given !== null).length ?? 0);
const { busy, other, through } = useAct([]);
const give = (given: unknown) => {
  const place = next.value?.place;
  if (typeof given !== "number" || place === undefined || busy.value) return;
  void through(async () => {
    queryClient.setQueryData(
      key,
      await answer(api.POST("/api/training/{set_id}/grades", { ...path, body: { place, given } })),
    );
    if (!next.value) await queryClient.invalidateQueries({ queryKey: keys.training(props.id) });
  });
};
const picture = (place: number) => `/api/training/${props.set}/${place}.jpg`;
const heading = computed(() => {
  if (sure(run.value).learned?.ready) return "You are ready to score this.";
  const until = sure(run.value).ready_until;
  return until ? `This set was off. You still count as ready until ${day(until, "UTC")}.` : "Not ready yet.";
});
const told = (value: number | null) => (value === null ? "" : reading(value, sure(run.value).outcome.scale));
</script>

<template>
  <NothingHere v-if="error" :says="problemsOf(error)[0]!.says" />
  <main v-else-if="run" class="sheet mx-auto flex min-h-dvh max-w-5xl flex-col px-4 py-4">
    <p class="flex flex-wrap items-center justify-between gap-x-4">
      <RouterLink class="quiet inline-flex items-center" :to="{ name: 'training', params: { id } }"
        >Practise grading</RouterLink
      ><span v-if="next" class="flex items-center gap-3"
        ><TallyStrokes :solid="done" :label="`${done} of ${run.things.length} graded`" :height="22" />{{
          done + 1
        }}
        of {{ run.things.length }}</span
      >
    </p>
    <ProblemText class="mt-2" :says="other" />
    <template v-if="next">
      <h1 class="mt-1 text-[1.35rem]">{{ run.outcome.name }}</h1>
      <div class="mt-3 grid items-start gap-5 lg:grid-cols-[minmax(0,1fr)_22rem]">
        <img
          :key="next.place"
          :src="picture(next.place)"
          alt="The thing to grade"
          class="aspect-[4/3] w-full bg-ground object-contain"
        />
        <ScorePads :key="next.place" :outcome="run.outcome" :value="null" @give="give" />
      </div>
    </template>
    <template v-else>
      <h1 class="mt-3">{{ heading }}</h1>
      <LearnedView v-if="run.learned" class="mt-2" :learned="run.learned" :scale="run.outcome.scale" />
      <p v-if="run.duel" class="mt-4 max-w-2xl border-l-4 border-ink pl-3">
        <b>Eye against gauge.</b> {{ run.duel.says }} Nearer to the truth: the eye {{ run.duel.eye_nearer }},
        the gauge {{ run.duel.gauge_nearer }} of {{ run.duel.n }}.
      </p>
      <p class="mt-5">
        <RouterLink class="press press-main" :to="{ name: 'training', params: { id } }">On</RouterLink>
      </p>
      <ul class="mt-6 grid grid-cols-2 gap-4 sm:grid-cols-3 lg:grid-cols-4" aria-label="The set">
        <li v-for="one in run.things" :key="one.place">
          <img
            :src="picture(one.place)"
            alt=""
            loading="lazy"
            class="aspect-[4/3] w-full bg-ground object-contain"
          />
          <p>
            You: <b>{{ told(one.given) }}</b>
          </p>
          <p>
            True: <b>{{ told(one.truth) }}</b>
          </p>
          <p v-if="one.gauged !== null" class="text-soft">
            Gauge: {{ honest(one.gauged, 2)
            }}{{ run.outcome.scale.kind === "shade" ? `, true ${honest(one.truth ?? 0, 2)}` : "" }}
          </p>
        </li>
      </ul>
    </template>
  </main>
</template>
