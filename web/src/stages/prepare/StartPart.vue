<script setup lang="ts">
import { sure } from "@/parts/sure";
/** The start of exposure: what is held equal, how samples begin, and the clock of each block or single
 * sample.
 */
import { computed, defineAsyncComponent, ref, useId } from "vue";

import BaselineBox from "./BaselineBox.vue";
import CycleCount from "./CycleCount.vue";
import HeldSheet from "./HeldSheet.vue";
import DialogSheet from "@/parts/DialogSheet.vue";
import ProblemText from "@/parts/ProblemText.vue";
import TallyStrokes from "@/parts/TallyStrokes.vue";
import { fieldOf, momentIn } from "@/parts/localMoment";
import { moment } from "@/parts/moments";
import { answer, api, type Schemas } from "@/shell/api/client";
import { useAct } from "@/shell/act";
import { rightNow } from "@/shell/offline/clock";
import { trialChanged } from "@/shell/query";
import { counted, sampleOf } from "@/parts/nouns";

const ScanDialog = defineAsyncComponent(() => import("@/stages/rounds/ScanDialog.vue"));
const props = defineProps<{ id: string; course: Schemas["CourseOut"]; prepared?: Schemas["PreparedOut"] }>();
const { busy, says, other, through } = useAct(["codes", "block", "at"]);
interface What {
  name: string;
  block: string | null;
  codes: string[];
  /** Codes of those that start later. */
  but: string[];
  samples: number;
}
const starting = ref<What | null>(null);
const single = ref("");
const later = ref("");
/** When the clock began, where that was not now. */
const then = ref("");
const scanning = ref(false);
const codesIn = (text: string) => text.split(/[\s,;]+/).filter(Boolean);
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
  const codes = codesIn(single.value);
  if (codes.length)
    starting.value = { name: codes.join(", "), block: null, codes, but: [], samples: codes.length };
}
/** All that wait, without those that start later. */
function startAll(): void {
  const but = codesIn(later.value);
  const name = but.length ? `all that wait but ${but.join(", ")}` : `all ${waiting.value} that wait`;
  starting.value = { name, block: null, codes: [], but, samples: waiting.value - but.length };
}
/** A tag was scanned: that one starts. */
function scanned(id: string): void {
  scanning.value = false;
  starting.value = { name: "the one with that tag", block: null, codes: [id], but: [], samples: 1 };
}
const start = () =>
  through(async () => {
    const { block, codes, but } = sure(starting.value);
    await answer(
      api.POST("/api/trials/{trial_id}/start", {
        params: { path: { trial_id: props.id } },
        body: { block, codes, but, at: then.value ? momentIn(then.value) : null },
      }),
    );
    starting.value = null;
    single.value = later.value = then.value = "";
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
              block: blocks.length > 1 ? one.key : null,
              codes: [],
              but: codesIn(later),
              samples: one.samples - one.started,
            }
          "
        >
          {{ one.name ? `Start ${one.name}` : "Start exposure" }}
        </button>
      </li>
    </ul>
    <div v-if="waiting && !course.opened_at" class="mt-3 flex flex-wrap items-end gap-x-6 gap-y-3">
      <button
        v-if="blocks.length > 1"
        type="button"
        class="press press-main"
        :disabled="busy"
        @click="startAll"
      >
        Start all that wait
      </button>
      <form class="flex flex-wrap items-end gap-2" @submit.prevent="startCodes">
        <label class="block w-full sm:w-56"
          ><span class="mb-1 block text-[0.9rem] text-soft">Codes of single {{ course.sample_words }}</span
          ><input
            v-model="single"
            class="field code"
            inputmode="numeric"
            placeholder="412, 873"
            autocomplete="off"
            :aria-invalid="says('codes') ? 'true' : undefined"
            :aria-describedby="told"
        /></label>
        <button class="press press-small" :disabled="busy || !single.trim()">Start these</button>
        <button type="button" class="press press-small" @click="scanning = true">Scan a tag</button>
      </form>
      <label class="block w-full sm:w-56"
        ><span class="mb-1 block text-[0.9rem] text-soft">Codes of those that start later</span
        ><input v-model="later" class="field code" inputmode="numeric" placeholder="412" autocomplete="off"
      /></label>
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
    <ScanDialog v-if="scanning" @found="scanned" @close="scanning = false" />
    <DialogSheet :open="!!starting" title="Start exposure now?" @close="starting = null">
      <p class="mt-2">
        This sets the clock of {{ starting?.name }} to {{ then ? "then" : "now" }}. It cannot be set twice.
      </p>
      <label class="mt-3 block max-w-72"
        ><span class="mb-1 block text-[0.9rem] text-soft">Began on another day or hour than now</span
        ><input v-model="then" type="datetime-local" class="field" :max="fieldOf(rightNow())" /><ProblemText
          :says="says('at')"
      /></label>
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
