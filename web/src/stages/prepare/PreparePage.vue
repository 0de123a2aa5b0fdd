<script setup lang="ts">
/** Preparing: who gets what, for those who put it there, and the start of exposure. */
import { computed, ref } from "vue";

import CycleCount from "./CycleCount.vue";
import HeldSheet from "./HeldSheet.vue";
import DialogSheet from "@/parts/DialogSheet.vue";
import ProblemText from "@/parts/ProblemText.vue";
import SampleTag from "@/parts/SampleTag.vue";
import { moment } from "@/parts/moments";
import { answer, api, type Schemas } from "@/shell/api/client";
import { useAct } from "@/shell/act";
import { trialChanged } from "@/shell/query";

const props = defineProps<{ id: string; course: Schemas["CourseOut"] }>();
const { busy, other, through } = useAct([]);
const handout = ref<Schemas["HandoutRow"][]>();
const starting = ref(false);
const path = { trial_id: props.id };
const places = computed(() => [...new Set(handout.value?.map((row) => row.block))].map((block) => ({ block, rows: handout.value!.filter((row) => row.block === block) })));
const look = () =>
  through(async () => {
    handout.value = (await answer(api.POST("/api/trials/{trial_id}/key-looks", { params: { path } }))).rows;
  });
const start = () =>
  through(async () => {
    await answer(api.POST("/api/trials/{trial_id}/start", { params: { path } }));
    starting.value = false;
    await trialChanged(props.id);
  });
const print = () => window.print();
</script>

<template>
  <section class="sheet min-h-[calc(100dvh-2rem)] p-4 lg:p-8">
    <p class="text-soft">{{ course.title }}</p>
    <h1>Prepare</h1>
    <div class="no-print mt-5 grid gap-6 xl:grid-cols-2">
      <div class="border-t-2 border-ink pt-3">
        <h2>Who gets what</h2>
        <template v-if="course.may_see_key">
          <p class="mt-1">
            Write the code on each {{ course.sample_word }}, then give it its treatment. Looking is recorded: what you score
            afterwards counts as open, not blind.
          </p>
          <div class="mt-3 flex flex-wrap gap-3">
            <button class="press" :class="{ 'press-main': !handout && !course.started_at }" :disabled="busy" @click="look">Look at the key</button>
            <button v-if="handout" class="press" @click="print">Print it</button>
          </div>
        </template>
        <p v-else class="mt-1">You stay blind, so a preparer sees this. <RouterLink :to="{ name: 'people', params: { id } }">Invite one</RouterLink> if there is none.</p>
      </div>
      <div class="border-t-2 border-ink pt-3">
        <h2>Start of exposure</h2>
        <p v-if="course.started_at" class="mt-1">Started {{ moment(course.started_at, course.zone) }}. The clock of all {{ course.samples }} {{ course.sample_word }}s is running.</p>
        <template v-else>
          <p class="mt-1">Once all {{ course.samples }} {{ course.sample_word }}s have their treatment, start the clock. Every look is timed from this moment.</p>
          <button class="press mt-3" :class="{ 'press-main': handout || !course.may_see_key }" :disabled="busy" @click="starting = true">Start exposure</button>
        </template>
      </div>
    </div>
    <CycleCount v-if="course.cycle_word && course.state === 'running'" :id="id" :word="course.cycle_word" :count="course.cycles" />
    <HeldSheet :id="id" :zone="course.zone" :may-tick="!course.opened_at" />
    <ProblemText :says="other" />
    <div v-if="handout" class="mt-7 grid gap-x-8 gap-y-6 xl:grid-cols-2">
      <div v-for="place in places" :key="place.block">
        <h2 v-if="place.block" class="border-b-2 border-ink pb-1">{{ place.block }}</h2>
        <table class="figures">
          <thead><tr><th scope="col">Place</th><th scope="col">Code</th><th scope="col">Gets</th></tr></thead>
          <tbody>
            <tr v-for="row in place.rows" :key="row.code">
              <td>{{ row.place }}</td>
              <td class="w-40"><SampleTag :code="row.code" /></td>
              <td><b>{{ row.treatment }}</b></td>
            </tr>
          </tbody>
        </table>
      </div>
    </div>
    <DialogSheet :open="starting" title="Start exposure now?" @close="starting = false">
      <p class="mt-2">This sets the clock of all {{ course.samples }} {{ course.sample_word }}s to now. It cannot be set twice.</p>
      <ProblemText :says="other" />
      <div class="mt-5 flex gap-3">
        <button class="press press-main" :disabled="busy" @click="start">Start the clock</button>
        <button class="press" @click="starting = false">Not yet</button>
      </div>
    </DialogSheet>
  </section>
</template>
