<script setup lang="ts">
import { sure } from "@/parts/sure";
/** The start of exposure: what is held equal, how samples begin, and the clock of each block or single
 * sample.
 */
import { computed, ref, useId } from "vue";

import BaselineBox from "./BaselineBox.vue";
import CycleCount from "./CycleCount.vue";
import HeldSheet from "./HeldSheet.vue";
import DialogSheet from "@/parts/DialogSheet.vue";
import ProblemText from "@/parts/ProblemText.vue";
import TallyStrokes from "@/parts/TallyStrokes.vue";
import { moment } from "@/parts/moments";
import { answer, api, type Schemas } from "@/shell/api/client";
import { useAct } from "@/shell/act";
import { trialChanged } from "@/shell/query";
import { counted, sampleOf } from "@/parts/nouns";

const props = defineProps<{ id: string; course: Schemas["CourseOut"]; prepared?: Schemas["PreparedOut"] }>();
const { busy, says, other, through } = useAct(["codes", "block"]);
interface What {
  name: string;
  block: string | null;
  codes: string[];
  samples: number;
}
const starting = ref<What | null>(null);
const single = ref("");
const blocks = computed(() => props.prepared?.blocks ?? []);
const waiting = computed(() => blocks.value.reduce((sum, one) => sum + one.samples - one.started, 0));
const all = computed(() => blocks.value.reduce((sum, one) => sum + one.samples, 0));
const samples = (many: number) => counted(many, sampleOf(props.course));
const sentence = computed(() => {
  if (!all.value) return "";
  if (!waiting.value) return `The clock of all ${samples(all.value)} is running.`;
  return waiting.value === all.value
    ? `No clock is running yet.`
    : `The clock of ${all.value - waiting.value} of ${samples(all.value)} is running.`;
});
const notGiven = computed(() =>
  blocks.value
    .filter((one) => starting.value?.block === null || one.key === starting.value?.block)
    .reduce((sum, one) => sum + one.samples - one.given, 0),
);
const between = (one: Schemas["BlockPrepared"]) => {
  if (!one.first_start) return "waits";
  const first = moment(one.first_start, props.course.zone);
  return one.last_start && one.last_start !== one.first_start
    ? `started ${first} to ${moment(one.last_start, props.course.zone)}`
    : `started ${first}`;
};
function startCodes(): void {
  const codes = single.value.split(/[\s,;]+/).filter(Boolean);
  if (codes.length) starting.value = { name: codes.join(", "), block: null, codes, samples: codes.length };
}
const start = () =>
  through(async () => {
    const { block, codes } = sure(starting.value);
    await answer(
      api.POST("/api/trials/{trial_id}/start", {
        params: { path: { trial_id: props.id } },
        body: { block, codes, at: null },
      }),
    );
    starting.value = null;
    single.value = "";
    await trialChanged(props.id);
  });
const told = useId();
</script>

<template>
  <div>
    <div class="flex flex-wrap items-center justify-between gap-x-6 gap-y-2">
      <p class="text-[1.3rem] leading-snug font-bold">{{ sentence }}</p>
      <TallyStrokes
        v-if="all"
        :solid="all - waiting"
        :rest="waiting"
        :label="`${all - waiting} started, ${waiting} wait`"
      />
    </div>
    <p class="mt-1 max-w-3xl text-soft">
      Each {{ course.sample_word }} has its own clock: every look is timed from its start. Blocks may start
      one after the other.
    </p>
    <BaselineBox :id="id" :course="course" />
    <ul class="mt-4 max-w-4xl border-t-2 border-ink">
      <li
        v-for="one in blocks"
        :key="one.key"
        class="rule flex flex-wrap items-center justify-between gap-x-6 gap-y-2 py-2 first:border-0"
      >
        <div class="min-w-52">
          <h2>{{ one.name || `All ${course.sample_words}` }}</h2>
          <p class="text-soft">
            {{ samples(one.samples) }},
            {{
              one.given === one.samples
                ? "all given"
                : one.given
                  ? `${one.given} given`
                  : "none noted as given"
            }}, {{ between(one) }}
          </p>
        </div>
        <TallyStrokes
          :solid="one.started"
          :rest="one.samples - one.started"
          :height="22"
          :label="`${one.started} of ${one.samples} started`"
        />
        <button
          v-if="one.started < one.samples && !course.opened_at"
          type="button"
          class="press"
          :class="{ 'press-main': blocks.length === 1 }"
          :disabled="busy"
          @click="
            starting = {
              name: one.name || `all ${samples(one.samples)}`,
              block: one.key || null,
              codes: [],
              samples: one.samples - one.started,
            }
          "
        >
          {{ one.name ? `Start ${one.name}` : "Start exposure" }}
        </button>
      </li>
    </ul>
    <div v-if="waiting && !course.opened_at" class="mt-3 flex flex-wrap items-start gap-x-6 gap-y-3">
      <button
        v-if="blocks.length > 1"
        type="button"
        class="press press-main"
        :disabled="busy"
        @click="starting = { name: `all ${waiting} that wait`, block: null, codes: [], samples: waiting }"
      >
        Start all that wait
      </button>
      <form class="flex flex-wrap items-start gap-2" @submit.prevent="startCodes">
        <label
          ><span class="sr-only">Codes of single {{ course.sample_words }}</span
          ><input
            v-model="single"
            class="field code w-56"
            inputmode="numeric"
            placeholder="or by code: 412, 873"
            autocomplete="off"
            :aria-invalid="says('codes') ? 'true' : undefined"
            :aria-describedby="told"
        /></label>
        <button class="press press-small" :disabled="busy || !single.trim()">Start these</button>
      </form>
    </div>
    <ProblemText :id="told" v-if="!starting" :says="says('codes') ?? other" />
    <CycleCount
      v-if="course.cycle_word && course.state === 'running'"
      :id="id"
      :word="course.cycle_word"
      :count="course.cycles"
      :settings="prepared?.settings ?? []"
    />
    <HeldSheet :id="id" :zone="course.zone" :may-tick="!course.opened_at" />
    <DialogSheet :open="!!starting" title="Start exposure now?" @close="starting = null">
      <p class="mt-2">This sets the clock of {{ starting?.name }} to now. It cannot be set twice.</p>
      <p v-if="notGiven && starting?.codes.length === 0" class="mt-2 border-l-4 border-ink pl-3">
        {{ notGiven }} of them are not noted as given yet. They can be noted later too.
      </p>
      <ProblemText :says="says('codes') ?? says('block') ?? other" />
      <div class="mt-5 flex gap-3">
        <button class="press press-main" :disabled="busy" @click="start">Start the clock</button>
        <button class="press" @click="starting = null">Not yet</button>
      </div>
    </DialogSheet>
  </div>
</template>
