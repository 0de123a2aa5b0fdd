<script setup lang="ts">
import { keys } from "@/shell/queryKeys";
import { sure } from "@/parts/sure";
/** A sample as its tag leads to it: where it stands, and what can be done with it now. */
import { useQuery } from "@tanstack/vue-query";
import { computed, watchEffect } from "vue";

import FindSample from "./FindSample.vue";
import NothingHere from "@/parts/NothingHere.vue";
import SampleTag from "@/parts/SampleTag.vue";
import { answer, api } from "@/shell/api/client";
import { problemsOf } from "@/shell/api/problems";
import { about } from "@/shell/places";

const props = defineProps<{ id: string }>();
const { data: sample, error } = useQuery({
  queryKey: keys.sample(computed(() => props.id)),
  queryFn: () => answer(api.GET("/api/samples/{sample_id}", { params: { path: { sample_id: props.id } } })),
});
watchEffect(() => {
  if (sample.value) about.value = sample.value.code;
});
const where = computed(() => {
  const one = sure(sample.value);
  const place = one.row && one.column ? `row ${one.row}, column ${one.column}` : `place ${one.place}`;
  return one.block ? `${one.block}, ${place}` : place;
});
</script>

<template>
  <div class="mx-auto flex min-h-dvh max-w-xl flex-col bg-sheet px-4 pb-8">
    <NothingHere v-if="error" :says="problemsOf(error)[0]!.says" />
    <main v-else-if="sample" class="flex grow flex-col">
      <SampleTag :code="sample.code" :set-aside="sample.set_aside" huge />
      <h1 class="mt-4 text-[1.3rem]">{{ sample.title }}</h1>
      <p class="mt-1">
        {{ where }}. Check letter <b class="code">{{ sample.check }}</b>.
      </p>
      <p v-if="sample.set_aside" class="mt-2 border-l-4 border-ink pl-3">Set aside: {{ sample.set_aside }}</p>
      <p v-else-if="!sample.started && sample.state !== 'opened'" class="mt-2 text-soft">
        Its clock is not running yet.
      </p>
      <div class="mt-6 grid gap-3">
        <RouterLink
          v-if="sample.score"
          class="press press-main min-h-[64px]"
          :to="{
            name: 'round',
            params: { id: sample.trial, checkpoint: sample.score },
            query: { at: sample.id },
          }"
          >Score it, {{ sample.score_name }}</RouterLink
        >
        <RouterLink class="press min-h-[56px]" :to="{ name: 'board', params: { id: sample.trial } }"
          >To the board</RouterLink
        >
      </div>
      <div class="rule mt-8 pt-4">
        <h2 class="mb-2">Another one</h2>
        <FindSample :trial="sample.trial" />
      </div>
    </main>
  </div>
</template>
