<script setup lang="ts">
/** A trial told in one's own words: marked where it is understood, drawn beside, asked where it is open. */
import { useQuery } from "@tanstack/vue-query";
import { computed, onUnmounted, ref, watch } from "vue";

import ToldBox from "./ToldBox.vue";
import ToldDrawing from "./ToldDrawing.vue";
import {
  answered,
  MAY_BE,
  PART_NAMES,
  pieceOf,
  withTold,
  type Answers,
  type Part,
  type Told,
  type WordMark,
} from "./told";
import "./marks.css";
import { agreement, checkpoint, outcome, SCALES, treatment } from "../fresh";
import type { Plan, PlanAtWork } from "../usePlan";
import ProblemText from "@/parts/ProblemText.vue";
import { sure } from "@/parts/sure";
import { answer, api, type Schemas } from "@/shell/api/client";
import { problemsOf } from "@/shell/api/problems";
import { queryClient } from "@/shell/query";
import { keys } from "@/shell/queryKeys";

const plan = defineModel<Plan>({ required: true });
const props = defineProps<{ work: PlanAtWork }>();
const emit = defineEmits<{ done: [] }>();
const AFTER = 250;
/** Kept for whoever wrote it: nobody else on this device gets to see it. */
const me = queryClient.getQueryData<Schemas["Me"]>(keys.me())?.id ?? 0;
const at = `field-tally/told/${props.work.trial}/${me}`;
const text = ref(kept());
const read = ref("");
const told = ref<Told>();
const righted = ref<Schemas["Righted"][]>([]);
const chosen = ref<{ begin: number; end: number; text: string } | null>(null);
const says = ref("");
let timer = 0;
let turn = 0;

/** What was written here before and did not get into the plan. */
function kept(): string {
  try {
    return localStorage.getItem(at) ?? "";
  } catch {
    return "";
  }
}
function keep(): void {
  try {
    if (text.value.trim()) localStorage.setItem(at, text.value);
    else localStorage.removeItem(at);
  } catch {
    // A device that keeps nothing: the words stand on this page.
  }
}
async function ask(): Promise<void> {
  const mine = ++turn;
  const asked = text.value;
  if (!asked.trim()) {
    [told.value, read.value, says.value] = [undefined, "", ""];
    return;
  }
  try {
    const body = { text: asked, righted: righted.value };
    const found = await answer(api.POST("/api/description", { body }));
    if (mine === turn) [told.value, read.value, says.value] = [found, asked, ""];
  } catch (error) {
    if (mine === turn) says.value = sure(problemsOf(error)[0]).says;
  }
}
watch(
  text,
  (now) => {
    keep();
    chosen.value = null;
    // What was put right holds only as long as its words stand where they stood.
    righted.value = righted.value.filter((one) => pieceOf(now, one.begin, one.end) === one.text);
    window.clearTimeout(timer);
    timer = window.setTimeout(() => void ask(), AFTER);
  },
  { immediate: true },
);
onUnmounted(() => window.clearTimeout(timer));

const answers = ref<Answers>({ names: {}, each: null, units: {} });
const settled = computed(() => told.value && answered(told.value, answers.value));
/** What is still open: what was answered in the drawing is asked no longer. */
const asked = computed(() => {
  const all = told.value?.treatments ?? [];
  const named = all.every((one, i) => !one.unnamed || answers.value.names[i]?.trim());
  return (told.value?.asked ?? []).filter(
    (one) =>
      !(one.about === "each" && answers.value.each !== null) &&
      !(one.about === "names" && named) &&
      !(one.about === "unit" && answers.value.units[one.of]?.trim()),
  );
});
/** Short plans to begin with, shown while the box is empty. */
const { data: patterns } = useQuery({
  queryKey: keys.patterns(),
  queryFn: () => answer(api.GET("/api/patterns")),
  staleTime: Infinity,
});
const { data: earlierOnes } = useQuery({
  queryKey: keys.patterns("earlier"),
  queryFn: () => answer(api.GET("/api/patterns/earlier")),
});
const earlier = computed(() => earlierOnes.value?.filter((one) => one.trial !== props.work.trial));
async function asIn(trial_id: string): Promise<void> {
  try {
    const like = await answer(api.GET("/api/trials/{trial_id}/pattern", { params: { path: { trial_id } } }));
    plan.value = { ...like, title: plan.value.title, zone: plan.value.zone };
    emit("done");
  } catch (error) {
    says.value = sure(problemsOf(error)[0]).says;
  }
}
/** Instruments against each other, two to begin with or those that were told, a blank, and samples of which
 * nothing is known. */
function asInstruments(): void {
  const names = told.value?.treatments.map((one) => one.name) ?? [];
  Object.assign(plan.value, {
    question: plan.value.question || "Do the instruments agree?",
    agreement: agreement(),
    treatments: [treatment({ name: "Blank", holds: 0 }), treatment({ name: "From the field", samples: 12 })],
    outcomes: (names.length > 1 ? names : ["First instrument", "Second instrument"]).map((name) =>
      outcome({ name, scale: SCALES.measurement(), better: "none" }),
    ),
    checkpoints: [checkpoint({ name: "Reading", offset: 60, after: 1440 })],
  });
  emit("done");
}
const marks = computed(() => told.value?.marks ?? []);
/** The mark that is being put right, or the words that were picked in the box. */
const open = ref<WordMark | null>(null);
const piece = computed(() =>
  open.value
    ? {
        begin: open.value.begin,
        end: open.value.end,
        text: pieceOf(read.value, open.value.begin, open.value.end),
      }
    : chosen.value,
);
function right(part: Part): void {
  const words = piece.value;
  if (!words) return;
  const apart = righted.value.filter((one) => one.end <= words.begin || one.begin >= words.end);
  righted.value = [...apart, { ...words, part }];
  [open.value, chosen.value] = [null, null];
  void ask();
}
const any = computed(
  () => told.value && (told.value.treatments.length || told.value.outcomes.length || told.value.looks.length),
);
function take(): void {
  if (!settled.value) return;
  plan.value = withTold(plan.value, settled.value);
  try {
    localStorage.removeItem(at);
  } catch {
    // Nothing was kept.
  }
  emit("done");
}
</script>

<template>
  <section class="rule mt-4 pt-4" aria-labelledby="say-it">
    <h2 id="say-it" class="mb-2 text-[1.05rem]">
      Say it
      <span class="ml-2 text-[0.9rem] font-normal text-soft"
        >what is understood is marked; nothing is kept before you take it</span
      >
    </h2>
    <ToldBox
      v-model="text"
      :marks="marks"
      :read="read"
      @chosen="(words) => ((chosen = words), words && (open = null))"
    />
    <ProblemText :says="says" />
    <p
      v-if="!text.trim() && patterns"
      class="mt-2 flex flex-wrap items-center gap-x-1 text-[0.92rem] text-soft"
    >
      Or begin from one of these, and change its words:
      <button v-for="one in patterns" :key="one.name" type="button" class="quiet" @click="text = one.text">
        {{ one.name }}
      </button>
      <button type="button" class="quiet" @click="asInstruments">Do the instruments agree?</button>
      <RouterLink class="quiet" :to="{ name: 'tasting' }">Can anyone tell them apart? (a tasting)</RouterLink>
    </p>
    <p
      v-if="!text.trim() && earlier?.length"
      class="mt-2 flex flex-wrap items-center gap-x-1 text-[0.92rem] text-soft"
    >
      Or as in an earlier trial, with its treatments, scales, looks and places:
      <button
        v-for="one in earlier"
        :key="one.trial"
        type="button"
        class="quiet text-left"
        @click="asIn(one.trial)"
      >
        {{ one.title }}
      </button>
    </p>
    <ul v-if="marks.length" class="mt-2 flex flex-wrap gap-2" aria-label="What was understood">
      <li v-for="mark in marks" :key="mark.begin" class="min-w-0 max-w-full">
        <button
          type="button"
          class="chip"
          :aria-expanded="open?.begin === mark.begin"
          :aria-label="`${pieceOf(read, mark.begin, mark.end)}: ${PART_NAMES[mark.part]}, ${mark.says}. Put it right`"
          @click="open = open?.begin === mark.begin ? null : mark"
        >
          <span class="mark" :class="mark.part">{{ pieceOf(read, mark.begin, mark.end) }}</span>
          <span class="text-[0.85rem] text-soft">{{ PART_NAMES[mark.part] }}</span>
        </button>
      </li>
    </ul>
    <fieldset v-if="piece" class="mt-3 border-l-4 border-ink pl-3">
      <legend class="sr-only">What these words are</legend>
      <p>
        <template v-if="open"
          ><b>“{{ piece.text }}”</b> is taken as {{ PART_NAMES[open.part] }}: {{ open.says }}. It is
          rather</template
        ><template v-else
          ><b>“{{ piece.text }}”</b> is</template
        >
      </p>
      <div class="mt-1 flex flex-wrap gap-2">
        <button
          v-for="part in MAY_BE"
          :key="part"
          type="button"
          class="press press-small"
          :disabled="open?.part === part"
          @click="right(part)"
        >
          {{ PART_NAMES[part] }}
        </button>
      </div>
    </fieldset>
    <p v-else-if="told" class="mt-2 text-[0.92rem] text-soft">
      Something else is meant? Tap a mark, or pick words in the box, and say what they are.
    </p>
    <div
      v-if="settled"
      class="mt-3 grid gap-4"
      :class="{ 'lg:grid-cols-[minmax(0,3fr)_minmax(0,2fr)]': any }"
    >
      <ToldDrawing v-if="any" v-model="answers" :told="settled" />
      <div>
        <template v-if="asked.length">
          <h3 class="font-bold">Still open</h3>
          <ol class="mt-1 grid list-decimal gap-1 pl-5">
            <li v-for="one in asked" :key="one.says">
              {{ one.says }}
              <RouterLink v-if="one.about === 'tasting'" class="quiet" :to="{ name: 'tasting' }"
                >Plan it as a tasting</RouterLink
              >
              <button v-if="one.about === 'instruments'" type="button" class="quiet" @click="asInstruments">
                Plan it as that
              </button>
            </li>
          </ol>
        </template>
        <p v-else>All that a plan begins with is told.</p>
        <button v-if="any" type="button" class="press press-main mt-3" @click="take">
          Take it into the plan
        </button>
      </div>
    </div>
  </section>
</template>

<style scoped>
.chip {
  display: inline-flex;
  flex-wrap: wrap;
  align-items: baseline;
  gap: 0.4rem;
  min-height: 44px;
  padding: 0.4rem 0.6rem;
  border: 2px solid var(--line);
  background: var(--sheet);
  text-align: left;
}
.chip[aria-expanded="true"] {
  border-color: var(--ink);
}
</style>
