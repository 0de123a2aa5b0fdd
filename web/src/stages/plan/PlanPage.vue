<script setup lang="ts">
import { sure } from "@/parts/sure";
/** The plan, part by part, with what it can and cannot tell beside it. */
import { computed, nextTick, onMounted, ref } from "vue";
import { useRouter } from "vue-router";

import ClashBox from "./ClashBox.vue";
import BegunPart from "./BegunPart.vue";
import DosesPart from "./DosesPart.vue";
import DryRunPart from "./DryRunPart.vue";
import FairnessPart from "./FairnessPart.vue";
import HeldEqualPart from "./HeldEqualPart.vue";
import LayoutPart from "./LayoutPart.vue";
import LooksPart from "./LooksPart.vue";
import OutcomesPart from "./OutcomesPart.vue";
import OutlookPanel from "./OutlookPanel.vue";
import PlanText from "./PlanText.vue";
import QuestionPart from "./QuestionPart.vue";
import SealDialog from "./SealDialog.vue";
import TreatmentsPart from "./TreatmentsPart.vue";
import { partOf, partsOf, type PartKey } from "./planParts";
import { usePlan } from "./usePlan";
import SignInAgain from "@/parts/SignInAgain.vue";
import PartLinks from "@/parts/PartLinks.vue";
import NothingHere from "@/parts/NothingHere.vue";
import { span } from "@/parts/moments";
import type { Schemas } from "@/shell/api/client";
import { problemsOf } from "@/shell/api/problems";
import { useNow } from "@/shell/now";

const props = defineProps<{ id: string; part?: string; course: Schemas["CourseOut"] }>();
const router = useRouter();
const work = usePlan(props.id);
const { plan, saved, savedAt, words, tried, problems, noticed } = work;
const missing = ref("");
const sealing = ref(false);
const now = useNow(5_000);
const PAGES = {
  question: QuestionPart,
  treatments: TreatmentsPart,
  doses: DosesPart,
  equal: HeldEqualPart,
  outcomes: OutcomesPart,
  layout: LayoutPart,
  looks: LooksPart,
  begun: BegunPart,
  fairness: FairnessPart,
  "dry-run": DryRunPart,
};
const here = computed<PartKey>(
  () => partsOf(plan.value ?? {}).find((one) => one.key === props.part)?.key ?? "question",
);
const own = computed(() => partsOf(plan.value ?? {}));
const parts = computed(() =>
  own.value.map(({ key, name }) => ({
    key,
    name,
    to: { name: "plan", params: { id: props.id, part: key } },
    open: saved.value?.may_edit ? work.open(key) : 0,
  })),
);
const next = computed(() => own.value[own.value.findIndex((one) => one.key === here.value) + 1]);
/** The first word of the judgement, for where there is no room beside the plan. */
const short = computed(() => work.outlook.value?.headline.split(". ")[0]);
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
    missing.value = sure(problemsOf(error)[0]).says;
  }
});
async function seal(): Promise<void> {
  // What a field could not take stands on the screen and not in the plan: nothing is sealed beside it.
  const unkept = document.querySelector<HTMLElement>("form [data-unkept]");
  if (unkept) {
    unkept.scrollIntoView({ block: "center" });
    unkept.focus({ preventScroll: true });
    return;
  }
  await work.save();
  tried.value = true;
  if (!problems.value.length && !work.failed.value) {
    sealing.value = true;
    return;
  }
  const first = problems.value[0];
  if (first) await router.push({ name: "plan", params: { id: props.id, part: partOf(first.at).key } });
  await showFirst();
}
/** Lead to the first sentence about what is wrong. */
async function showFirst(): Promise<void> {
  await nextTick();
  const first = document.querySelector<HTMLElement>("form [aria-invalid=true], form [role=alert]");
  first?.scrollIntoView({ block: "center" });
  if (first?.matches("input, select, textarea")) first.focus({ preventScroll: true });
}
</script>

<template>
  <NothingHere v-if="missing" :says="missing" />
  <div
    v-else-if="plan && saved"
    class="lg:-my-4 lg:-mr-4 lg:grid lg:grid-cols-[minmax(0,1fr)_300px] min-[1440px]:grid-cols-[minmax(0,1fr)_360px]"
  >
    <form class="min-w-0 px-4 pt-2 pb-10 lg:px-7 lg:pt-6" novalidate @submit.prevent>
      <h1 class="sr-only">Plan of {{ plan.title }}</h1>
      <div class="flex min-h-11 flex-wrap items-center gap-x-4">
        <p class="grow text-[0.9rem] text-soft" role="status">
          {{ kept }}<template v-if="noticed">. {{ noticed }}</template>
        </p>
        <button
          v-if="work.mayUndo.value || work.mayRedo.value"
          type="button"
          class="quiet"
          :disabled="!work.mayUndo.value"
          @click="work.undo"
        >
          Undo
        </button>
        <button v-if="work.mayRedo.value" type="button" class="quiet" @click="work.redo">Redo</button>
      </div>
      <ClashBox :work="work" />
      <SignInAgain v-if="work.signedOut.value" @in="work.save()" />
      <fieldset :disabled="!work.editable.value" class="min-w-0">
        <legend class="sr-only">The plan</legend>
        <PlanText v-model="plan.title" at="title" label="Name of the trial" :work="work" heading />
      </fieldset>
      <PartLinks class="mt-1" label="Parts of the plan" :here="here" :parts="parts" />
      <h2 :key="here" data-arrival class="sr-only text-[1.35rem] focus-visible:not-sr-only">
        {{ own.find((one) => one.key === here)?.name }}
      </h2>
      <fieldset :disabled="!work.editable.value && here !== 'dry-run'" class="min-w-0">
        <legend class="sr-only">{{ own.find((one) => one.key === here)?.name }}</legend>
        <component :is="PAGES[here]" v-model="plan" :work="work" />
      </fieldset>
      <RouterLink v-if="next" class="press mt-8" :to="{ name: 'plan', params: { id, part: next.key } }"
        >On to {{ next.name }}</RouterLink
      >
      <a
        v-if="short"
        href="#tell"
        class="on-panel sticky bottom-[var(--bar)] z-10 -mx-4 mt-6 flex min-h-12 items-center justify-between gap-3 bg-panel px-4 text-panel-ink lg:hidden"
      >
        <b>{{ short }}</b><span
          >names the best {{ Math.round(100 * work.outlook.value!.shares.right) }} times in 100</span
        >
      </a>
    </form>
    <OutlookPanel :work="work" :sealed="saved.sealed" :zone="plan.zone" @seal="seal" />
    <SealDialog v-if="sealing" :id="id" :work="work" @close="sealing = false" />
  </div>
</template>
