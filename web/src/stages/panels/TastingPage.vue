<script setup lang="ts">
/** A tasting by itself: the question, what is put before people, who judges; then it is sealed and poured. */
import { useQuery } from "@tanstack/vue-query";
import { computed, nextTick, reactive, ref, watch } from "vue";
import { useRouter } from "vue-router";

import PanelFinds from "./PanelFinds.vue";
import { freshPanel, METHODS } from "./methods";
import { peopleIn } from "./people";
import LibraryDialog from "@/stages/plan/LibraryDialog.vue";
import ChoiceRow from "@/parts/ChoiceRow.vue";
import FoldPart from "@/parts/FoldPart.vue";
import LabelledField from "@/parts/LabelledField.vue";
import NumberField from "@/parts/NumberField.vue";
import ProblemText from "@/parts/ProblemText.vue";
import TakeOut from "@/parts/TakeOut.vue";
import { here } from "@/parts/moments";
import { sure } from "@/parts/sure";
import { answer, api, type Schemas } from "@/shell/api/client";
import { useAct } from "@/shell/act";
import { queryClient } from "@/shell/query";
import { keys } from "@/shell/queryKeys";

const MOST_THINGS = 8;
const QUESTIONS = [
  { value: "triangle", name: "Is there a difference?", says: "Two things; three cups, one of them odd." },
  { value: "2-afc", name: "Which is more …?", says: "Two things: crunchier, sweeter, louder." },
  { value: "preference", name: "Which is liked best?", says: "Two or more." },
  { value: "naming", name: "Which is which?", says: "All of them, and their names." },
  { value: "ranking", name: "In which order?", says: "All of them, put in order." },
  { value: "grading", name: "How much is in each?", says: "Each one graded for what you name." },
];
const FORMS: { value: "cups" | "sounds" | "pictures"; name: string; says: string }[] = [
  { value: "cups", name: "Poured", says: "Tasted, smelled, touched." },
  { value: "sounds", name: "Sounds", says: "Files, played equally loud." },
  { value: "pictures", name: "Pictures", says: "Files, shown at one size." },
];
const plan = reactive({ ...freshPanel(""), assessors: 12 });
const things = ref(["", ""]);
const title = ref("");
const names = ref("");
const stimuli = ref("");
const attribute = ref("");
const fair = reactive<Record<string, { kept: boolean | null; reason: string }>>({});
const router = useRouter();
const { busy, says, other, through } = useAct([
  "title",
  "things",
  "panel.attribute",
  "panel.allergens",
  "panel.attributes",
  "panel.things",
  "panel.stimuli",
  "panel.on",
  "people",
  "fairness",
]);

const { data: asked } = useQuery({
  queryKey: keys.tastings(),
  queryFn: () => answer(api.GET("/api/tastings")),
  staleTime: Infinity,
});
watch(asked, (found) => found?.fairness.forEach((one) => (fair[one.key] ??= { kept: null, reason: "" })), {
  immediate: true,
});
/** The question, whatever test asks it. */
const question = computed({
  get: () => QUESTIONS.find((one) => one.value === plan.method)?.value ?? "triangle",
  set: (value: string) => (plan.method = value as typeof plan.method),
});
const asks = computed(() => sure(METHODS.find((one) => one.key === plan.method)).asks);
const tests = computed(() => METHODS.filter((one) => one.asks === asks.value));
const pair = computed(() => !["naming", "ranking", "preference", "grading"].includes(plan.method));
const least = computed(() => (["naming", "ranking"].includes(plan.method) ? 3 : 2));
watch(least, (many) => {
  while (things.value.length < many) things.value.push("");
  while (things.value.length > many && !things.value.at(-1)?.trim()) things.value.pop();
});
const named = computed(() => things.value.map((one) => one.trim()).filter(Boolean));
const listed = computed(() => peopleIn(names.value, "naive"));
const people = computed<Schemas["NewAssessor"][]>(() => [
  ...listed.value,
  ...Array.from({ length: Math.max(0, plan.assessors - listed.value.length) }, () => ({
    name: "",
    experience: "naive" as const,
    blind: true,
    address: "",
  })),
]);
const over = computed(() =>
  stimuli.value
    .split(",")
    .map((one) => one.trim())
    .filter(Boolean),
);
/** The plan as it would be sealed now. */
const whole = computed(() => ({
  ...plan,
  title: "A tasting",
  things: named.value.map((_, i) => `thing-${i + 1}`),
  stimuli: over.value,
  assessors: Math.max(1, people.value.length),
  attributes:
    plan.method === "grading" && attribute.value.trim()
      ? attribute.value
          .split(",")
          .map((one) => one.trim())
          .filter(Boolean)
          .map((name) => ({ name, low: "none", high: "very much", steps: 10 }))
      : [],
}));
const outlook = ref<Schemas["PanelOutlook"] | null>(null);
const first = ref("");
let timer = 0;
watch(
  whole,
  () => {
    window.clearTimeout(timer);
    timer = window.setTimeout(() => void foresee(), 250);
  },
  { deep: true, immediate: true },
);
async function foresee(): Promise<void> {
  const asks = whole.value;
  // What it can find stands there before the things have names.
  const many = Math.max(least.value, asks.things.length);
  const treatments = Array.from({ length: many }, (_, i) => `thing-${i + 1}`);
  const found = await answer(
    api.POST("/api/panel-outlook", { body: { plan: { ...asks, things: treatments }, treatments } }),
  ).catch(() => null);
  if (!found || asks !== whole.value) return;
  outlook.value = found.outlook;
  first.value = found.problems[0]?.says ?? "";
}
/** Names pasted with lines or commas between fill as many fields. */
function paste(at: number, event: ClipboardEvent): void {
  const pasted = (event.clipboardData?.getData("text") ?? "")
    .split(/[\n\t;,]+/)
    .map((one) => one.trim())
    .filter(Boolean);
  if (pasted.length < 2) return;
  event.preventDefault();
  things.value.splice(at, pasted.length, ...pasted);
  things.value = things.value.slice(0, MOST_THINGS);
}
const list = ref<HTMLElement>();
/** On to the next one by Enter. */
async function onward(at: number): Promise<void> {
  const last = at === things.value.length - 1;
  if (last && !pair.value && things.value.length < MOST_THINGS) things.value.push("");
  await nextTick();
  list.value?.querySelectorAll("input")[at + 1]?.focus();
}
const library = ref(false);
function take(one: { name: string }): void {
  const free = things.value.findIndex((name) => !name.trim());
  if (free >= 0) things.value[free] = one.name;
  else if (things.value.length < MOST_THINGS) things.value.push(one.name);
}
const thingSays = (i: number) => says(`things.${i}`) ?? (i ? undefined : (says("panel.things") ?? undefined));
const hold = () =>
  through(async () => {
    const panel = { ...whole.value, title: "" };
    if (panel.material !== "cups") Object.assign(panel, { allergens: "", dose: "", adults: false });
    const made = await answer(
      api.POST("/api/tastings", {
        body: {
          title: title.value,
          zone: here(),
          things: things.value.filter((one, i) => i < least.value || one.trim()),
          panel,
          people: people.value,
          fairness: Object.entries(fair)
            .filter(([, one]) => one.kept !== null)
            .map(([item, one]) => ({ item, kept: one.kept === true, reason: one.reason })),
        },
      }),
    );
    await queryClient.invalidateQueries({ queryKey: keys.shelf() });
    await router.push({ name: "panel", params: { id: made.trial, panel: made.id } });
  });
</script>

<template>
  <main class="mx-auto max-w-6xl p-4 lg:px-8 lg:py-6">
    <form
      class="sheet grid items-start gap-8 p-4 lg:p-8 xl:grid-cols-[minmax(0,1fr)_330px]"
      novalidate
      @submit.prevent="hold"
    >
      <div class="grid min-w-0 gap-7">
        <div>
          <h1>Hold a tasting</h1>
          <p class="mt-1 max-w-xl">
            One evening, one question. Answer what stands here, press once, and the cups can be poured.
          </p>
        </div>
        <ChoiceRow v-model="question" legend="What do you want to know?" :choices="QUESTIONS" />
        <LabelledField
          v-if="plan.method === '2-afc' || plan.method === '3-afc'"
          v-model="plan.attribute"
          class="max-w-sm"
          label="Which is more"
          placeholder="crunchy"
          hint="The first one below is the one you expect to be more."
          :says="says('panel.attribute')"
        />
        <LabelledField
          v-if="plan.method === 'grading'"
          v-model="attribute"
          class="max-w-md"
          label="Graded for, with commas between"
          placeholder="crunch, sourness"
          :says="says('panel.attributes')"
        />
        <fieldset class="min-w-0">
          <legend class="text-[1.15rem] font-bold">
            What is put before them?{{
              pair ? " Two things." : ` ${least === 3 ? "Three" : "Two"} to ${MOST_THINGS}.`
            }}
          </legend>
          <ol ref="list" class="mt-2 grid gap-2 sm:grid-cols-2">
            <li v-for="(_, i) in things" :key="i" class="flex min-w-0 items-start gap-2">
              <div class="min-w-0 grow">
                <label class="flex items-center gap-3"
                  ><b class="code w-6 flex-none text-center" aria-hidden="true">{{ "ABCDEFGH"[i] }}</b
                  ><input
                    v-model="things[i]"
                    class="field"
                    maxlength="80"
                    autocomplete="off"
                    :placeholder="i ? 'Second brine' : 'First brine'"
                    :aria-label="`Thing ${'ABCDEFGH'[i]}`"
                    :aria-invalid="thingSays(i) ? 'true' : undefined"
                    :aria-describedby="`thing-says-${i}`"
                    @paste="paste(i, $event)"
                    @keydown.enter.prevent="onward(i)"
                /></label>
                <ProblemText :id="`thing-says-${i}`" :says="thingSays(i)" />
              </div>
              <TakeOut
                v-if="things.length > least"
                :what="things[i] || 'this one'"
                @out="things.splice(i, 1)"
              />
            </li>
          </ol>
          <ProblemText :says="things.some((_, i) => thingSays(i)) ? undefined : says('things')" />
          <p class="mt-2 flex flex-wrap gap-2">
            <button
              v-if="!pair && things.length < MOST_THINGS"
              type="button"
              class="press press-small"
              data-adds
              @click="things.push('')"
            >
              One more
            </button>
            <button type="button" class="press press-small" @click="library = true">From my trials</button>
          </p>
        </fieldset>
        <ChoiceRow v-model="plan.material" legend="In what form?" :choices="FORMS" />
        <div class="grid items-start gap-4 sm:grid-cols-[10rem_minmax(0,1fr)]">
          <NumberField
            :model-value="Math.max(plan.assessors, listed.length)"
            label="How many people"
            whole
            needed
            :says="says('people')"
            @update:model-value="(value) => (plan.assessors = value ?? 0)"
          />
          <label class="block"
            ><span class="mb-1 block text-[0.9rem] text-soft">Their names, if you know them</span
            ><textarea
              v-model="names"
              class="field block"
              rows="2"
              placeholder="Fern, Moss, Lark lark@tools.example"
            /><span class="mt-1 block text-soft"
              >Commas or lines between. An address beside a name is written to of the day.</span
            ></label
          >
        </div>
        <fieldset v-if="plan.material === 'cups'" class="grid min-w-0 gap-3">
          <legend class="mb-3 text-[1.15rem] font-bold">What they are told before they taste</legend>
          <div class="flex flex-wrap items-end gap-2">
            <LabelledField
              v-model="plan.allergens"
              class="min-w-0 grow basis-64"
              label="What may somebody be allergic to?"
              placeholder="mustard, celery"
              :says="says('panel.allergens')"
            />
            <button
              v-if="!plan.allergens"
              type="button"
              class="press"
              @click="plan.allergens = 'none known; ask if in doubt'"
            >
              None known
            </button>
          </div>
          <p class="text-soft">Ask everybody about allergies; the product’s label has the last word.</p>
          <label class="tick"
            ><input v-model="plan.adults" type="checkbox" /> There is alcohol in it: adults only</label
          >
          <LabelledField
            v-model="plan.dose"
            label="How much does each get, where that matters?"
            placeholder="2 slices in all; 0.5 g salt"
          />
        </fieldset>
        <fieldset class="grid min-w-0 gap-3">
          <legend class="mb-3 text-[1.15rem] font-bold">Is it fair?</legend>
          <div
            v-for="one in asked?.fairness"
            :key="one.key"
            class="border-l-4 pl-3"
            :class="fair[one.key]?.kept === null ? 'border-line' : 'border-ink'"
          >
            <p class="font-bold">{{ one.title }}</p>
            <p class="text-soft">{{ one.why }}</p>
            <div class="mt-1 flex flex-wrap gap-2" role="radiogroup" :aria-label="one.title">
              <label
                v-for="kept in [true, false]"
                :key="String(kept)"
                class="small"
                :class="{ chosen: fair[one.key]?.kept === kept }"
                ><input
                  v-model="fair[one.key]!.kept"
                  type="radio"
                  class="sr-only"
                  :name="one.key"
                  :value="kept"
                />{{ kept ? "Yes" : "No, because …" }}</label
              >
            </div>
            <LabelledField
              v-if="fair[one.key]?.kept === false"
              v-model="fair[one.key]!.reason"
              class="mt-2 max-w-xl"
              label="Why not? The result tells it."
            />
            <ProblemText :says="says(`fairness.${one.key}`)" />
          </div>
        </fieldset>
        <FoldPart
          title="More, if you like"
          inside="another test, songs or dishes, a date, what else is asked"
        >
          <div class="grid gap-4">
            <ChoiceRow
              v-if="tests.length > 1"
              v-model="plan.method"
              legend="By which test?"
              :choices="tests.map((one) => ({ value: one.key, name: one.name, says: one.says }))"
            />
            <LabelledField
              v-model="stimuli"
              label="Asked over several? Name them, with commas between"
              placeholder="The reel, The air, The march"
              hint="Songs, dishes, fields: everybody judges with each of them."
              :says="says('panel.stimuli')"
            />
            <div class="grid gap-4 sm:grid-cols-3">
              <NumberField
                :model-value="plan.sets"
                label="Sets for each"
                whole
                needed
                :says="says('panel.sets')"
                @update:model-value="(value) => (plan.sets = value ?? 0)"
              />
              <NumberField
                v-if="plan.material === 'cups'"
                :model-value="plan.amount"
                label="In each cup"
                :unit="plan.amount_unit"
                needed
                :says="says('panel.amount')"
                @update:model-value="(value) => (plan.amount = value ?? 0)"
              />
              <LabelledField
                :model-value="plan.on ?? ''"
                label="Planned for"
                type="datetime-local"
                :says="says('panel.on')"
                @update:model-value="(text) => (plan.on = text || null)"
              />
            </div>
            <label v-if="pair" class="tick"
              ><input v-model="plan.preference" type="checkbox" /> ask which is liked best, too</label
            >
            <label class="tick"
              ><input v-model="plan.free_words" type="checkbox" /> ask for words of their own</label
            >
            <label class="tick"
              ><input v-model="plan.cards" type="checkbox" /> everybody may see how they did, once the key is
              open</label
            >
            <LabelledField
              v-model="title"
              class="max-w-xl"
              label="What do you call it?"
              placeholder="Tasting of today"
              :says="says('title')"
            />
          </div>
        </FoldPart>
      </div>
      <PanelFinds class="xl:sticky xl:top-4 xl:row-span-2" :plan="whole" :outlook="outlook" :first="first" />
      <div class="grid min-w-0 max-w-xl gap-3">
        <ProblemText :says="other" />
        <button class="press press-main min-h-[64px] text-[1.15rem]" :disabled="busy">
          {{ plan.material === "cups" ? "Seal it and pour" : "Seal it, then add the files" }}
        </button>
        <p class="text-soft">
          What is asked is fixed with that; who gets which cups is drawn, and stays sealed until you open the
          key.
        </p>
      </div>
    </form>
    <LibraryDialog v-if="library" :taken="named" @take="take" @close="library = false" />
  </main>
</template>

<style scoped>
.tick {
  display: flex;
  min-height: 44px;
  align-items: center;
  gap: 0.75rem;
}
.tick input {
  width: 24px;
  height: 24px;
  flex: none;
}
.small {
  display: grid;
  min-height: 48px;
  min-width: 72px;
  place-items: center;
  padding: 0 0.9rem;
  border: 2px solid var(--line);
  cursor: pointer;
}
.small:focus-within {
  outline: 3px solid var(--ink);
  outline-offset: 2px;
}
.chosen {
  background: var(--ink);
  color: var(--sheet);
  border-color: var(--ink);
}
</style>
