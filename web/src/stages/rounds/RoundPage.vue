<script setup lang="ts">
import { sure } from "@/parts/sure";
/** A round: one sample at a time on a phone, a sheet on a laptop. */
import { computed, defineAsyncComponent, onMounted, ref, watchEffect } from "vue";
import { useRoute } from "vue-router";

import OddBar from "./OddBar.vue";
import OneAtATime from "./OneAtATime.vue";
import TimerStrip from "./TimerStrip.vue";
import { useRound } from "./useRound";
import { useTimers } from "./useTimers";
import NothingHere from "@/parts/NothingHere.vue";
import ProblemText from "@/parts/ProblemText.vue";
import RefusedList from "@/parts/RefusedList.vue";
import TallyStrokes from "@/parts/TallyStrokes.vue";
import { api } from "@/shell/api/client";
import { problemsOf } from "@/shell/api/problems";
import { about } from "@/shell/places";
import { trialChanged, useMe } from "@/shell/query";
import { useWide } from "@/shell/wide";

/** For a desk: a phone in the garden does not wait for it. */
const ScoreSheet = defineAsyncComponent(() => import("./ScoreSheet.vue"));
/** Rarely needed, and kept with all else for when there is no network. */
const SignInAgain = defineAsyncComponent(() => import("@/parts/SignInAgain.vue"));
const SeenOn = defineAsyncComponent(() => import("./SeenOn.vue"));
const BesideDialog = defineAsyncComponent(() => import("./BesideDialog.vue"));
const props = defineProps<{ id: string; checkpoint: string }>();
const { data: me } = useMe();
const work = useRound(props.id, me.value?.id ?? 0);
const timers = useTimers(props.id);
const says = ref("");
const wide = useWide();
const chosen = ref<"one" | "sheet" | null>(null);
const route = useRoute();
const view = computed(() => chosen.value ?? (wide.value && !route.query.at ? "sheet" : "one"));
const { round, counts, refused, noRoom, reached, held } = work;
watchEffect(() => {
  if (round.value) about.value = round.value.name;
});
/** More strokes than that are not drawn one by one. */
const STROKES = 60;
const all = computed(() => counts.value.solid + counts.value.hollow + counts.value.rest);
const told = computed(() => {
  const { solid, hollow, rest } = counts.value;
  return `${solid + hollow} scored${hollow ? `, ${hollow} of them on this device only` : ""}, ${rest} to go`;
});

onMounted(async () => {
  try {
    await work.open(props.checkpoint, String(route.query.looked_by ?? ""));
    if (round.value?.notebook) return;
    // What the weather station says now goes beside the readings; where there is none, nothing comes of it.
    void api
      .POST("/api/trials/{trial_id}/conditions", {
        params: { path: { trial_id: props.id } },
        body: {
          id: null,
          place: "",
          temperature: null,
          humidity: null,
          rain: null,
          light: null,
          at: null,
          from_station: true,
        },
      })
      .catch(() => undefined);
  } catch (error) {
    says.value = sure(problemsOf(error)[0]).says;
  }
});
</script>

<template>
  <div class="flex min-h-dvh flex-col bg-sheet lg:bg-ground">
    <header class="flex flex-wrap items-center justify-between gap-x-4 px-4 pt-2 lg:px-8 lg:pt-4">
      <RouterLink
        class="quiet -ml-2 inline-flex items-center"
        :to="{ name: 'board', params: { id } }"
        @click="trialChanged(id)"
        >Board</RouterLink
      >
      <h1 v-if="round" class="text-[1.05rem] lg:text-[1.4rem]">{{ round.name }}</h1>
      <button
        v-if="round"
        class="quiet hidden lg:inline-block"
        @click="chosen = view === 'one' ? 'sheet' : 'one'"
      >
        {{ view === "one" ? "As a sheet" : "One at a time" }}
      </button>
      <TallyStrokes
        v-if="round"
        :solid="counts.solid"
        :hollow="counts.hollow"
        :rest="counts.rest"
        :label="told"
        :height="24"
        class="my-2"
      />
      <!-- Of so many that a stroke stands for several of them the number is told as well. -->
      <span v-if="round && all > STROKES" class="hidden whitespace-nowrap lg:inline" aria-hidden="true">
        {{ (counts.solid + counts.hollow).toLocaleString("en-GB") }} of {{ all.toLocaleString("en-GB") }}
      </span>
    </header>
    <p v-if="!reached" role="status" class="mx-4 border-l-4 border-ink pl-3 lg:mx-8">
      No connection. Go on: what you score is kept on this device and sent by itself.
    </p>
    <SignInAgain v-else-if="held" class="mx-4 lg:mx-8" />
    <ProblemText class="mx-4 lg:mx-8" :says="noRoom" />
    <RefusedList class="mx-4 lg:mx-8" :rows="refused" @changed="work.showRefused" />
    <TimerStrip :timers="timers" class="mx-4 mt-2 lg:mx-8" />
    <OddBar :work="work" class="mx-4 lg:mx-8" />
    <main class="flex grow flex-col">
      <p v-if="round?.practise?.length" class="mx-4 border-l-4 border-ink pl-3 lg:mx-8">
        {{ round.practise.join(" and ") }}: scored only by those who have shown in practice that they are
        ready.
        <RouterLink :to="{ name: 'training', params: { id } }">Practise now</RouterLink>
      </p>
      <p v-if="round?.gauged?.length" class="mx-4 border-l-4 border-ink pl-3 lg:mx-8">
        {{ round.gauged.join(" and ") }}: measured in photos.
        <RouterLink :to="{ name: 'gauge', params: { id, checkpoint } }">Measure them</RouterLink>
      </p>
      <NothingHere v-if="says" :says="says" />
      <template v-else-if="round">
        <SeenOn v-if="work.paper.value" :work="work" class="mx-4 lg:mx-8" />
        <OneAtATime v-if="view === 'one'" :id="id" :work="work" :timers="timers" />
        <ScoreSheet v-else :id="id" :work="work" :timers="timers" />
        <BesideDialog v-if="work.asking.value" :work="work" :id="id" />
      </template>
    </main>
  </div>
</template>
