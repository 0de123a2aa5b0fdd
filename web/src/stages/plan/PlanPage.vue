<script setup lang="ts">
/** The plan, with what it can and cannot tell beside it. */
import { computed, nextTick, onMounted, ref } from "vue";

import CheckpointRows from "./CheckpointRows.vue";
import LayoutRows from "./LayoutRows.vue";
import OutcomeRows from "./OutcomeRows.vue";
import OutlookPanel from "./OutlookPanel.vue";
import PlanRow from "./PlanRow.vue";
import SealDialog from "./SealDialog.vue";
import TreatmentRows from "./TreatmentRows.vue";
import { usePlan } from "./usePlan";
import NothingHere from "@/parts/NothingHere.vue";
import PlanText from "./PlanText.vue";
import { span } from "@/parts/moments";
import type { Schemas } from "@/shell/api/client";
import { problemsOf } from "@/shell/api/problems";
import { useNow } from "@/shell/now";

const props = defineProps<{ id: string; course: Schemas["CourseOut"] }>();
const work = usePlan(props.id);
const { plan, saved, savedAt, words, conflict, tried, problems } = work;
const missing = ref("");
const sealing = ref(false);
const now = useNow(5_000);
const kept = computed(() => {
  if (words.value) return words.value;
  if (!savedAt.value) return "";
  const age = now.value.getTime() - savedAt.value.getTime();
  return age < 60_000 ? "Draft, kept just now" : `Draft, kept ${span(age)} ago`;
});

onMounted(async () => {
  try {
    await work.load();
  } catch (error) {
    missing.value = problemsOf(error)[0]!.says;
  }
});
async function seal(): Promise<void> {
  await work.save();
  tried.value = true;
  if (!problems.value.length && !work.failed.value) sealing.value = true;
  else await showFirst();
}
/** Lead to the first sentence about what is wrong. */
async function showFirst(): Promise<void> {
  await nextTick();
  const first = document.querySelector<HTMLElement>("form [aria-invalid=true], form [role=alert]");
  first?.scrollIntoView({ block: "center" });
  if (first?.matches("input, select")) first.focus({ preventScroll: true });
}
const zones = Intl.supportedValuesOf("timeZone");
</script>

<template>
  <NothingHere v-if="missing" :says="missing" />
  <div v-else-if="plan && saved" class="lg:-my-4 lg:-mr-4 lg:grid lg:grid-cols-[minmax(0,1fr)_minmax(320px,380px)]">
    <form class="px-4 pt-2 pb-10 lg:px-8 lg:pt-7" novalidate @submit.prevent>
      <h1 class="sr-only">Plan of {{ plan.title }}</h1>
      <p class="text-[0.9rem] text-soft" role="status">{{ kept }}</p>
      <button v-if="conflict" type="button" class="press mt-2" @click="work.load">Load the newer version</button>
      <fieldset :disabled="!saved.may_edit" class="min-w-0">
        <legend class="sr-only">The plan</legend>
        <PlanText v-model="plan.title" at="title" label="Name of the trial" :work="work" heading />
        <PlanRow title="Question">
          <PlanText v-model="plan.question" at="question" label="Question" :work="work" placeholder="What do you want to know?" />
        </PlanRow>
        <PlanRow title="Prediction" hint="kept for the day the key opens">
          <PlanText v-model="plan.prediction" at="prediction" label="Prediction" :work="work" placeholder="What do you think will happen?" />
        </PlanRow>
        <PlanRow title="Treatments" hint="what is compared, a control among them">
          <TreatmentRows v-model="plan" :work="work" />
        </PlanRow>
        <PlanRow title="Places" hint="blocks: benches, rooms, days">
          <LayoutRows v-model="plan" :work="work" />
        </PlanRow>
        <PlanRow title="Looked at" hint="outcomes and their scales">
          <OutcomeRows v-model="plan" :work="work" />
        </PlanRow>
        <PlanRow title="Looks" hint="checkpoints, from the start of exposure">
          <CheckpointRows v-model="plan" :work="work" />
        </PlanRow>
        <PlanRow title="Judged by">
          <div class="grid gap-3 sm:grid-cols-3">
            <label class="block">
              <span class="mb-1 block text-[0.9rem] text-soft">Claim</span>
              <select v-model="plan.compare" class="field">
                <option value="all">which is best of all</option>
                <option value="control">which beats the control</option>
              </select>
            </label>
            <label class="block">
              <span class="mb-1 block text-[0.9rem] text-soft">Risk of a false alarm</span>
              <select v-model.number="plan.alpha" class="field">
                <option :value="0.01">1 in 100</option>
                <option :value="0.05">5 in 100</option>
                <option :value="0.1">10 in 100</option>
              </select>
            </label>
            <label class="block">
              <span class="mb-1 block text-[0.9rem] text-soft">Time zone</span>
              <select v-model="plan.zone" class="field">
                <option v-if="!zones.includes(plan.zone)" :value="plan.zone">{{ plan.zone }}</option>
                <option v-for="zone in zones" :key="zone" :value="zone">{{ zone }}</option>
              </select>
            </label>
          </div>
          <p v-if="work.says('compare')" role="alert" class="mt-2 font-bold">{{ work.says("compare") }}</p>
        </PlanRow>
      </fieldset>
    </form>
    <OutlookPanel :work="work" :sealed="saved.sealed" :zone="plan.zone" @seal="seal" />
    <SealDialog v-if="sealing" :id="id" :work="work" @close="sealing = false" />
  </div>
</template>
