<script setup lang="ts">
import { sure } from "@/parts/sure";
/** The end of a round: what is scored, what is left, whether the server has it. */
import { computed, defineAsyncComponent } from "vue";

import type { RoundAtWork } from "./useRound";
import PhotoButton from "@/parts/PhotoButton.vue";
import SampleTag from "@/parts/SampleTag.vue";
import { trialChanged } from "@/shell/query";

const GuessSheet = defineAsyncComponent(() => import("./GuessSheet.vue"));
const props = defineProps<{ id: string; work: RoundAtWork }>();
const emit = defineEmits<{ back: [] }>();
const counts = props.work.counts;
const open = computed(() =>
  sure(props.work.round.value).samples.filter((sample) => !props.work.isDone(sample)),
);
</script>

<template>
  <section class="mx-auto flex w-full max-w-xl grow flex-col justify-center gap-4 px-4 py-8">
    <h2 class="text-[1.7rem]">{{ open.length ? `${open.length} still to score` : "All scored." }}</h2>
    <p v-if="open.length">You left these for later:</p>
    <ul v-if="open.length" class="grid grid-cols-2 gap-2">
      <li v-for="sample in open" :key="sample.id"><SampleTag :code="sample.code" /></li>
    </ul>
    <p role="status">
      <template v-if="counts.hollow"
        >{{ counts.hollow }} are on this device and will be sent by themselves.</template
      >
      <template v-else>Everything scored is stored on the server.</template>
    </p>
    <div class="flex flex-wrap gap-3">
      <RouterLink class="press press-main" :to="{ name: 'board', params: { id } }" @click="trialChanged(id)"
        >To the board</RouterLink
      >
      <button class="press" @click="emit('back')">Go back into the round</button>
    </div>
    <PhotoButton
      :trial="id"
      :shown="{ checkpoint: work.round.value!.checkpoint }"
      label="Photo of the whole board"
    />
    <GuessSheet
      v-if="!open.length && !work.round.value!.notebook"
      :id="id"
      :samples="work.round.value!.samples"
    />
  </section>
</template>
