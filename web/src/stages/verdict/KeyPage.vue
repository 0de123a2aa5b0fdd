<script setup lang="ts">
/** The sealed key: how far scoring has come, and opening it, asked for twice. */
import { computed, ref } from "vue";

import SealedProgress from "./SealedProgress.vue";
import GuessSheet from "@/stages/rounds/GuessSheet.vue";
import OwnPrediction from "@/stages/plan/OwnPrediction.vue";
import DialogSheet from "@/parts/DialogSheet.vue";
import LabelledField from "@/parts/LabelledField.vue";
import ProblemText from "@/parts/ProblemText.vue";
import SealMark from "@/parts/SealMark.vue";
import TallyStrokes from "@/parts/TallyStrokes.vue";
import { standingWords } from "@/parts/moments";
import { answer, api, type Schemas } from "@/shell/api/client";
import { useNow } from "@/shell/now";
import { useAct } from "@/shell/act";
import { trialChanged, useBoard } from "@/shell/query";
import { sampleOf } from "@/parts/nouns";
import LongName from "@/parts/LongName.vue";

const props = defineProps<{ id: string; course: Schemas["CourseOut"] }>();
const emit = defineEmits<{ opened: [] }>();
const { data: board } = useBoard(() => props.id);
const samples = computed(() => (board.value?.tags ?? []).filter((tag) => !tag.set_aside));
const now = useNow();
const { busy, says, other, through } = useAct(["phrase"]);
const asked = ref<Schemas["AskedOut"]>();
const despite = ref(false);
const phrase = ref("");
const path = { trial_id: props.id };
const open = computed(() =>
  props.course.checkpoints.filter((stop) => !["taken", "skipped"].includes(stop.standing)),
);
const ask = () =>
  through(async () => {
    asked.value = await answer(api.POST("/api/trials/{trial_id}/key/ask", { params: { path } }));
  });
const turn = () =>
  through(async () => {
    try {
      await answer(
        api.POST("/api/trials/{trial_id}/key/open", {
          params: { path },
          body: { phrase: phrase.value, title: "", despite: despite.value },
        }),
      );
    } catch (error) {
      // The answer may have been lost on its way: whether the key is open is found out by asking.
      const found = await answer(api.GET("/api/trials/{trial_id}/course", { params: { path } })).catch(
        () => undefined,
      );
      if (found?.state !== "opened") throw error;
    }
    emit("opened");
    await trialChanged(props.id);
  });
</script>

<template>
  <section class="sheet min-h-[calc(100dvh-2rem)] p-4 lg:p-8">
    <div class="flex flex-wrap items-start justify-between gap-4">
      <div>
        <LongName class="text-soft" :text="course.title" />
        <h1>The key is sealed.</h1>
      </div>
      <SealMark v-if="course.seal" :course="course" />
    </div>
    <p class="mt-2 max-w-2xl">
      Nobody is told how the treatments stand before the key is open: a look now would colour every score that
      follows.
    </p>
    <template v-if="course.started_at">
      <h2 class="mt-6 border-b-2 border-ink pb-1">What is scored, a stroke a {{ course.sample_word }}</h2>
      <ul>
        <li
          v-for="stop in course.checkpoints"
          :key="stop.key"
          class="rule grid grid-cols-[7rem_1fr] items-center gap-x-4 gap-y-1 py-2 sm:grid-cols-[9rem_14rem_1fr]"
        >
          <b>{{ stop.name }}</b>
          <span :class="{ 'text-soft': stop.standing === 'upcoming' }">{{
            standingWords(stop, now, course.zone)
          }}</span>
          <TallyStrokes
            v-if="stop.samples"
            class="col-span-2 sm:col-span-1"
            :solid="stop.samples_done"
            :rest="stop.samples - stop.samples_done"
            :height="22"
            :label="`${stop.samples_done} of ${stop.samples} scored`"
          />
        </li>
      </ul>
    </template>
    <SealedProgress v-if="course.may_lead && course.started_at" :id="id" :sample="sampleOf(course)" />
    <div
      v-if="course.may_open_key && course.started_at"
      class="mt-7 grid max-w-2xl gap-4 border-t-2 border-ink pt-4"
    >
      <h2>Before you open it</h2>
      <p>What you believe counts only while nobody knows. The verdict will hold it against the key.</p>
      <GuessSheet v-if="course.may_score" :id="id" :samples="samples" />
      <OwnPrediction :trial="id" :zone="course.zone" />
    </div>
    <div v-if="course.may_open_key" class="mt-7 max-w-2xl border-t-2 border-ink pt-4">
      <h2>Open the key</h2>
      <p v-if="open.length" class="mt-1 font-bold">
        {{ open.length === 1 ? `${open[0]!.name} is` : `${open.length} looks are` }} not fully scored. Once
        the key is open, nothing more is scored in this trial.
      </p>
      <p class="mt-1">
        It opens for everybody in the trial, once and for good, and goes on record with your name.
      </p>
      <button class="press press-main mt-4" :disabled="busy" @click="ask">I want to open the key</button>
      <ProblemText :says="asked ? '' : other" />
    </div>
    <p v-else class="mt-6">The lead opens it, when the trial is over.</p>
    <DialogSheet :open="!!asked" title="Open the key for good?" @close="asked = undefined">
      <p class="mt-2">
        Asked once; now confirm. Type <b class="code">{{ asked?.phrase }}</b>, and the colours come in.
      </p>
      <div v-if="asked?.faults.length" class="mt-4 border-2 border-ink p-4" role="alert" data-test="faults">
        <p class="font-bold">What is kept is not what was recorded.</p>
        <p class="mt-1">
          It was changed, and by nothing that Field Tally records. A backup from before may hold it as it was:
          put that back rather than open this.
        </p>
        <ul class="mt-2 list-disc pl-5">
          <li v-for="fault in asked.faults" :key="fault">{{ fault }}</li>
        </ul>
        <label class="mt-3 flex min-h-11 items-center gap-3"
          ><input v-model="despite" type="checkbox" class="size-6" />Open it all the same; the verdict and the
          report will say so</label
        >
      </div>
      <p v-else-if="asked" class="mt-3 text-soft">
        Checked:
        {{
          asked.entries === 1
            ? "the record is as it was made"
            : `all ${asked.entries} entries of the record are as they were made`
        }}, and every {{ course.sample_word }} stands where it was drawn to.
      </p>
      <form class="mt-4 grid gap-4" @submit.prevent="turn">
        <LabelledField
          v-model="phrase"
          :label="`Type: ${asked?.phrase ?? ''}`"
          autocomplete="off"
          autocapitalize="off"
          :says="says('phrase')"
        />
        <ProblemText :says="other" />
        <div class="flex flex-wrap gap-3">
          <button class="press press-main" :disabled="busy || (!!asked?.faults.length && !despite)">
            Open the key
          </button>
          <button type="button" class="press" @click="asked = undefined">Leave it sealed</button>
        </div>
      </form>
    </DialogSheet>
  </section>
</template>
