<script setup lang="ts">
import { keys } from "@/shell/queryKeys";
/** Today: what is due, late and coming across all trials, with where, how long and what to bring. */
import { useQuery } from "@tanstack/vue-query";
import { computed, ref } from "vue";

import LookDialog from "./LookDialog.vue";
import RemindMe from "./RemindMe.vue";
import { inWords } from "./agenda";
import NothingHere from "@/parts/NothingHere.vue";
import TallyStrokes from "@/parts/TallyStrokes.vue";
import { weekday, standingWords } from "@/parts/moments";
import { answer, api, type Schemas } from "@/shell/api/client";
import { problemsOf } from "@/shell/api/problems";
import { useNow } from "@/shell/now";
import { queryClient } from "@/shell/query";
import { counted, sampleOf } from "@/parts/nouns";
import ZoneNote from "@/parts/ZoneNote.vue";

type Entry = Schemas["Entry"];
const { data, error } = useQuery({
  queryKey: keys.today(),
  queryFn: () => answer(api.GET("/api/today")),
  refetchInterval: 60_000,
});
const { data: sky } = useQuery({
  queryKey: keys.weather(),
  queryFn: () => answer(api.GET("/api/weather")),
  staleTime: 60_000,
  retry: false,
});
const now = useNow();
const skipping = ref<Entry | null>(null);
const entries = computed(() => data.value?.entries ?? []);
const waiting = computed(() => entries.value.filter((one) => one.standing !== "upcoming"));
const coming = computed(() => entries.value.filter((one) => one.standing === "upcoming"));
const days = computed(() => {
  const found = new Map<string, Entry[]>();
  for (const one of coming.value) {
    const day = one.due ? weekday(one.due, one.zone) : "once it starts";
    found.set(day, [...(found.get(day) ?? []), one]);
  }
  return [...found];
});
const sentence = computed(() => inWords(waiting.value));
async function skipped(): Promise<void> {
  skipping.value = null;
  await queryClient.invalidateQueries({ queryKey: keys.today() });
}
const zones = computed(() => [...new Set(entries.value.map((one) => one.zone))]);
</script>

<template>
  <div class="mx-auto max-w-5xl p-4 lg:px-8 lg:py-6">
    <NothingHere v-if="error" :says="problemsOf(error)[0]!.says" />
    <main v-else-if="data" class="mt-4 lg:mt-7">
      <h1 class="text-[1.9rem] leading-tight">{{ sentence }}</h1>
      <p v-if="sky?.weather?.says" class="mt-1 text-[1.05rem]">Outside: {{ sky.weather.says }}</p>
      <ZoneNote v-for="zone in zones" :key="zone" :zone="zone" />
      <ul class="mt-5 grid gap-3" aria-label="Waits for you">
        <li
          v-for="one in waiting"
          :key="one.trial + one.look"
          class="sheet grid gap-3 border-l-[10px] border-due p-4 md:grid-cols-[minmax(0,1fr)_auto] md:items-center lg:px-6"
        >
          <div class="min-w-0">
            <h2 class="text-[1.25rem]">
              <RouterLink
                class="flex min-h-11 items-center no-underline hover:underline"
                :to="{ name: 'board', params: { id: one.trial } }"
                ><span class="line-clamp-2">{{ one.title }}</span></RouterLink
              >
            </h2>
            <p class="font-bold">
              {{ one.name }}, {{ standingWords({ ...one, slip: null }, now, one.zone) }}
            </p>
            <p class="mt-1">
              {{ one.outcomes.join(", ")
              }}<template v-if="one.places.length">; at {{ one.places.join(" and ") }}</template
              >.
            </p>
            <p v-if="one.bring.length">Bring {{ one.bring.join(", ") }}.</p>
            <p class="mt-2 flex flex-wrap items-center gap-x-4 gap-y-1">
              <TallyStrokes
                :solid="one.samples - one.samples_left"
                :rest="one.samples_left"
                :label="`${one.samples_left} of ${counted(one.samples, sampleOf(one))} to score`"
              /><span
                >{{ one.learned ? "about" : "perhaps" }} {{ one.minutes }} min{{
                  one.learned ? ", as you have been scoring" : ""
                }}</span
              >
            </p>
          </div>
          <div class="flex flex-wrap items-center gap-2 md:grid">
            <RouterLink
              class="press press-main min-h-[60px] grow px-7 text-[1.1rem]"
              :to="{ name: 'round', params: { id: one.trial, checkpoint: one.look } }"
              >{{ one.samples_left < one.samples ? "Go on scoring" : "Score it" }}</RouterLink
            >
            <button
              type="button"
              class="quiet"
              :aria-label="`Skip ${one.name} of ${one.title}`"
              @click="skipping = one"
            >
              Skip or put off
            </button>
          </div>
        </li>
      </ul>
      <section v-if="days.length" class="mt-8" aria-label="Coming">
        <h2 class="border-b-2 border-ink pb-1">Coming</h2>
        <div
          v-for="[day, own] in days"
          :key="day"
          class="rule grid items-baseline gap-x-6 py-2 first-of-type:border-0 sm:grid-cols-[8rem_minmax(0,1fr)]"
        >
          <h3 class="text-soft">{{ day }}</h3>
          <ul>
            <li
              v-for="one in own"
              :key="one.trial + one.look"
              class="flex flex-wrap items-baseline justify-between gap-x-6"
            >
              <span
                ><RouterLink
                  class="inline-flex min-h-11 items-center"
                  :to="{ name: 'board', params: { id: one.trial } }"
                  >{{ one.title }}</RouterLink
                >, {{ one.name }}</span
              ><span class="text-soft"
                >{{ counted(one.samples, sampleOf(one)) }}, {{ one.learned ? "about" : "perhaps" }}
                {{ one.minutes }} min</span
              >
            </li>
          </ul>
        </div>
      </section>
      <p v-if="!entries.length" class="mt-3 max-w-xl">
        No look comes in the next eight days. <RouterLink to="/">Your shelf</RouterLink> has all trials.
      </p>
      <RemindMe class="mt-8" />
    </main>
    <LookDialog
      v-if="skipping"
      :id="skipping.trial"
      what="skip"
      :stop="{ key: skipping.look, name: skipping.name, lost: skipping.lost }"
      :zone="skipping.zone"
      @close="skipped"
    />
  </div>
</template>
