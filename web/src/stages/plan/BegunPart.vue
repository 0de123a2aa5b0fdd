<script setup lang="ts">
/** What happened before the plan was written: when it began, what stands where, which looks were taken. */
import { computed, onMounted, onUnmounted, ref, useId, watch } from "vue";
import { useRouter } from "vue-router";

import BegunDays from "./BegunDays.vue";
import GivenPicture from "./GivenPicture.vue";
import PlanRow from "./PlanRow.vue";
import PlanText from "./PlanText.vue";
import { begun as fresh, type Begun } from "./fresh";
import type { Plan, PlanAtWork } from "./usePlan";
import ChoiceRow from "@/parts/ChoiceRow.vue";
import { letterOf } from "@/parts/letters";
import { weekday } from "@/parts/moments";
import PaperBeside from "@/parts/PaperBeside.vue";
import ProblemText from "@/parts/ProblemText.vue";
import { answer, api, type Schemas } from "@/shell/api/client";
import { problemsOf, type Problem } from "@/shell/api/problems";
import { rightNow } from "@/shell/offline/clock";
import { SAMPLE, wordFor } from "@/parts/nouns";

const plan = defineModel<Plan>({ required: true });
const props = defineProps<{ work: PlanAtWork }>();
const router = useRouter();
const told = computed<Begun>({
  get: () => plan.value.begun ?? fresh(),
  set: (now) => (plan.value.begun = now),
});
const WAYS = [
  { value: "hand", name: "By hand", says: "in turn, by what was at hand, as it came" },
  { value: "drawn", name: "By lot", says: "cards, dice, a list of random numbers" },
] satisfies { value: Begun["placed"]; name: string; says: string }[];

/** What stands where, as it is drawn; the server reads it. */
const text = ref("");
const flaws = useId();
/** Once the plan is sealed what stands where is no part of what is read of it. */
const hidden = computed(() => Boolean(props.work.saved.value?.sealed) && !told.value.samples.length);
const noun = computed(() => props.work.judged.value?.sample ?? SAMPLE);
const names = ref<string[]>([]);
const wrong = ref<Problem[]>([]);
let timer = 0;
let turn = 0;
async function read(written: string | null): Promise<void> {
  const mine = ++turn;
  try {
    const out = await answer(api.POST("/api/given", { body: { plan: plan.value, text: written } }));
    if (mine !== turn) return;
    names.value = out.names;
    wrong.value = [];
    if (written === null) text.value = out.text;
    else told.value = { ...told.value, samples: out.samples };
  } catch (error) {
    if (mine === turn) wrong.value = problemsOf(error);
  }
}
function typed(now: string): void {
  // An answer that is still on its way is about an older text: it does not write over this one.
  turn += 1;
  text.value = now;
  window.clearTimeout(timer);
  timer = window.setTimeout(() => void read(now), 350);
}
onMounted(() => void read(null));
onUnmounted(() => window.clearTimeout(timer));
/** Two change places: what was told of their own days stays with the place. */
function swap(one: number, other: number): void {
  const samples = told.value.samples.map((each) => ({ ...each }));
  const [a, b] = [samples[one], samples[other]];
  if (!a || !b || one === other) return;
  [a.treatment, b.treatment] = [b.treatment, a.treatment];
  [a.name, b.name] = [b.name, a.name];
  told.value = { ...told.value, samples };
  void read(null);
}
const key = computed(() =>
  plan.value.treatments.map((one, i) => `${letterOf(i)} ${one.name || "no name yet"}`).join(", "),
);
const example = computed(() => {
  const letters = plan.value.treatments.map((_, i) => letterOf(i));
  const row = (from: number) =>
    Array.from(
      { length: Math.max(2, letters.length) },
      (_, i) => letters[(i + from) % letters.length] ?? "A",
    ).join(" ");
  const lines = [row(0), row(1)];
  const blocks = plan.value.layout.kind === "blocks" || plan.value.layout.kind === "split";
  const places = blocks ? plan.value.layout.blocks.map((one) => one.name || "Bench") : [];
  return places.length ? places.map((one, i) => `${one}:\n${row(i)}`).join("\n") : lines.join("\n");
});
const LINES: Partial<Record<Plan["layout"]["kind"], string>> = {
  split: "A line is one whole plot.",
  pairs: "A line is one pair.",
  latin: "A line is a row; an empty line goes between squares.",
};

/** The looks on their days. */
const calendar = ref<Schemas["CalendarOut"]>();
watch(
  () => JSON.stringify([told.value.on, plan.value.checkpoints, plan.value.zone]),
  async () => {
    if (!told.value.on) return (calendar.value = undefined);
    calendar.value = await answer(
      api.POST("/api/calendar", { body: { plan: plan.value, trial: props.work.trial } }),
    ).catch(() => undefined);
    return undefined;
  },
  { immediate: true },
);
const due = computed(() => new Map((calendar.value?.looks ?? []).map((one) => [one.checkpoint, one.due])));
const looks = computed(() =>
  plan.value.checkpoints
    .filter(
      (one) => one.baseline || !due.value.get(one.key) || new Date(due.value.get(one.key) ?? 0) < rightNow(),
    )
    .sort((a, b) => Number(b.baseline) - Number(a.baseline) || a.offset - b.offset),
);
/** Those whose time is over; one that is due now may still be scored blind. */
const isOver = (one: Plan["checkpoints"][number]) =>
  new Date(due.value.get(one.key) ?? 0).getTime() + one.after * 60_000 < rightNow().getTime();
const untaken = computed(() =>
  looks.value.filter((one) => !one.baseline && isOver(one) && !told.value.taken.includes(one.key)),
);
function turnTaken(which: string): void {
  const taken = told.value.taken.includes(which)
    ? told.value.taken.filter((one) => one !== which)
    : [...told.value.taken, which];
  told.value = { ...told.value, taken };
}
async function notBegun(): Promise<void> {
  plan.value.begun = null;
  await router.push({ params: { part: "layout" } });
}
</script>

<template>
  <div>
    <PlanRow title="When it began">
      <BegunDays v-model="plan" :work="work" :names="names" />
    </PlanRow>
    <PlanRow title="How places came about" hint="the verdict tells it">
      <ChoiceRow
        legend="How places came about"
        hide-legend
        :choices="WAYS"
        :model-value="told.placed"
        @update:model-value="(placed) => (told = { ...told, placed })"
      />
      <PlanText
        class="mt-3"
        :model-value="told.how"
        at="begun.how"
        :label="told.placed === 'drawn' ? 'How it was drawn' : 'How they were chosen'"
        :placeholder="
          told.placed === 'drawn' ? 'cards from a hat' : 'in turn along the fence, as they came from the shed'
        "
        shown
        :work="work"
        @update:model-value="(how) => (told = { ...told, how })"
      />
      <p class="mt-2 text-soft">
        {{
          told.placed === "drawn"
            ? "The test shuffles as your lot could have dealt."
            : "The test shuffles as if they had been dealt by lot, and the verdict says that they were not."
        }}
      </p>
    </PlanRow>
    <PlanRow title="What stands where" :hint="key">
      <p v-if="hidden" class="text-soft">It is part of the key by now, and shown again once that is open.</p>
      <PaperBeside v-else what="the board or the sheet">
        <label class="block"
          ><span class="mb-1 block text-[0.9rem] text-soft"
            >Draw it as it stands: a line for each row, letters or names; “-” where nothing stands; a name of
            its own in brackets. {{ LINES[plan.layout.kind] ?? "" }}</span
          >
          <textarea
            class="field code min-h-40 leading-7"
            rows="6"
            spellcheck="false"
            autocomplete="off"
            :placeholder="example"
            :value="text"
            :aria-invalid="wrong.length ? 'true' : undefined"
            :aria-describedby="flaws"
            @input="typed(($event.target as HTMLTextAreaElement).value)"
          />
        </label>
        <ul
          v-if="wrong.length && text.trim()"
          :id="flaws"
          role="alert"
          class="mt-1 border-l-4 border-ink pl-3 font-bold"
        >
          <li v-for="one in wrong" :key="one.at + one.says">
            <span v-if="one.at.startsWith('line')" class="font-normal">{{ one.at }}: </span>{{ one.says }}
          </li>
        </ul>
        <ProblemText v-else :id="flaws" :says="work.says('begun.samples')" />
        <template v-if="told.samples.length">
          <p class="mt-3" role="status">
            {{ told.samples.length }} {{ wordFor(told.samples.length, noun) }}. Tap two to let them change
            places, or drag one onto the other.
          </p>
          <GivenPicture :plan="plan" :names="names" @swap="swap" />
        </template>
      </PaperBeside>
    </PlanRow>
    <PlanRow title="Looks already taken" hint="typed in from the notebook after the seal">
      <p v-if="!looks.length" class="text-soft">
        With a day above and looks under <RouterLink :to="{ params: { part: 'looks' } }">Looks</RouterLink>,
        those that lie behind stand here.
      </p>
      <ul v-else class="grid max-w-xl gap-1">
        <li v-for="one in looks" :key="one.key">
          <label class="flex min-h-11 items-center gap-3"
            ><input
              type="checkbox"
              class="h-6 w-6 flex-none accent-ink"
              :checked="told.taken.includes(one.key)"
              @change="turnTaken(one.key)"
            /><span
              ><b class="font-medium">{{ one.name || "A look without a name" }}</b
              >{{ one.stage ? `, ${one.stage}` : "" }}
              <span class="text-soft">{{
                one.baseline
                  ? "before the start"
                  : due.get(one.key)
                    ? `${weekday(due.get(one.key)!, plan.zone)}${isOver(one) ? "" : ": due now, and blind if you leave it"}`
                    : ""
              }}</span></span
            ></label
          >
        </li>
      </ul>
      <button
        v-if="untaken.length > 1"
        type="button"
        class="press press-small mt-2"
        @click="told = { ...told, taken: [...told.taken, ...untaken.map((one) => one.key)] }"
      >
        All {{ untaken.length }} were taken
      </button>
      <p v-if="untaken.length && told.on" class="mt-2 text-soft">
        A look behind that was not taken counts as missed.
      </p>
      <ProblemText :says="work.says('begun.taken')" />
    </PlanRow>
    <button v-if="!work.saved.value?.sealed" type="button" class="quiet mt-6" @click="notBegun">
      No, it is still to begin
    </button>
  </div>
</template>
