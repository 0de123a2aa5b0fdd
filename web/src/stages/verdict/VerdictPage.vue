<script setup lang="ts">
/** The verdict: said first, shown second, tabulated third.  Before the key is open, what opening it needs. */
import { computed, ref } from "vue";

import NotesTold from "./NotesTold.vue";
import FoldPart from "@/parts/FoldPart.vue";
import MethodPairs from "./MethodPairs.vue";
import LineUpPart from "./LineUpPart.vue";
import KeyOpened from "./KeyOpened.vue";
import KeyPage from "./KeyPage.vue";
import FollowUp from "./FollowUp.vue";
import OutcomeVerdict from "./OutcomeVerdict.vue";
import TallyBoard from "./TallyBoard.vue";
import VerdictUnderWay from "./VerdictUnderWay.vue";
import NothingHere from "@/parts/NothingHere.vue";
import TallyStrokes from "@/parts/TallyStrokes.vue";
import type { Schemas } from "@/shell/api/client";
import { problemsOf } from "@/shell/api/problems";
import { useVerdict } from "@/shell/query";
import { day } from "@/parts/moments";
import LongName from "@/parts/LongName.vue";
import { placeOf } from "@/parts/letters";

const props = defineProps<{ id: string; course: Schemas["CourseOut"] }>();
const opened = computed(() => props.course.state === "opened");
const chosen = ref(0);
/** The key was opened just now, here: what comes out of it is shown as it comes. */
const fresh = ref(false);
/** The line-up that comes before any number was picked from, passed over, or there is none. */
const lined = ref(false);
const {
  data: verdict,
  underWay,
  error,
} = useVerdict(
  () => props.id,
  () => opened.value && (!fresh.value || lined.value),
);
const ordered = computed(() =>
  [...(verdict.value?.outcomes ?? [])].sort((a, b) => Number(b.primary) - Number(a.primary)),
);
const outcome = computed(() => ordered.value[chosen.value]);
const tallyInside = computed(() => {
  const many = verdict.value?.tally?.outcomes.length ?? 0;
  return many > 1
    ? `What each is worth over ${many} outcomes, weighed as you like.`
    : "What each costs for what it does.";
});
const notesInside = computed(() => {
  const many = verdict.value?.notes.reduce((sum, one) => sum + one.samples, 0) ?? 0;
  return `On ${many} ${many === 1 ? "sample" : "samples"}: words counted by treatment, and some notes in full.`;
});
const signed = (value: number) => value.toFixed(2).replace("-", "−");
const sides = (one: Schemas["BlindingOut"]) =>
  [
    { name: "treated", found: one.treated },
    { name: "controls", found: one.control },
  ].flatMap(({ name, found }) =>
    found
      ? [
          {
            name,
            n: found.n,
            right: found.right,
            wrong: found.wrong,
            held: found.held,
            index: `${signed(found.index)}, ${signed(found.low)} to ${signed(found.high)}`,
          },
        ]
      : [],
  );
</script>

<template>
  <KeyPage v-if="!opened" :id="id" :course="course" @opened="fresh = true" />
  <section v-else-if="fresh && !lined" class="sheet min-h-[calc(100dvh-2rem)] p-4 lg:p-8">
    <LongName class="text-soft" :text="`${course.title}. The key is open.`" />
    <LineUpPart class="mt-2" :trial="id" @done="lined = true" />
  </section>
  <KeyOpened v-else-if="fresh && verdict" :id="id" :course="course" :verdict="verdict" @on="fresh = false" />
  <VerdictUnderWay v-else-if="underWay" :state="underWay" />
  <NothingHere v-else-if="error" :says="problemsOf(error)[0]!.says" />
  <section
    v-else-if="verdict && (outcome || verdict.panels_alone || verdict.instruments)"
    class="sheet min-h-[calc(100dvh-2rem)] p-4 lg:p-8"
  >
    <p class="text-soft">
      {{ verdict.title }}, key opened {{ day(verdict.opened_at, course.zone) }} by {{ verdict.opened_by }}.
      {{ verdict.blinding_told }}
      <RouterLink
        v-if="
          verdict.treatments.length > 1 &&
          verdict.treatments.length < 7 &&
          !course.is_tasting &&
          !verdict.instruments
        "
        :to="{ name: 'line-up', params: { id } }"
        >Line-up</RouterLink
      >
    </p>
    <div
      v-if="ordered.length > 1 && !verdict.panels_alone && !verdict.instruments"
      class="mt-2 flex flex-wrap gap-2"
      role="group"
      aria-label="Outcomes"
    >
      <button
        v-for="(one, i) in ordered"
        :key="one.key"
        class="press press-small"
        :class="{ 'press-main': i === chosen }"
        :aria-pressed="i === chosen"
        @click="chosen = i"
      >
        {{ one.primary ? one.name : `${one.name}, supporting` }}
      </button>
    </div>
    <template v-if="verdict.panels_alone">
      <component
        :is="i ? 'p' : 'h1'"
        v-for="(panel, i) in verdict.panels"
        :key="panel.id"
        class="mt-3 max-w-4xl leading-tight"
        :class="i ? 'text-[1.3rem]' : 'text-[1.7rem]'"
      >
        {{ panel.sentence }}
      </component>
      <p class="mt-2">Panels are all there is: no sample was read.</p>
    </template>
    <template v-else-if="verdict.instruments">
      <h1 class="mt-3 max-w-4xl text-[1.7rem] leading-tight lg:text-[2.1rem]">
        {{ verdict.instruments.sentences[0] }}
      </h1>
      <MethodPairs
        v-if="verdict.instruments.found"
        class="rule mt-6 pt-5"
        :found="verdict.instruments.found"
      />
    </template>
    <OutcomeVerdict
      v-else-if="outcome"
      :id="id"
      :key="outcome.key"
      :verdict="verdict"
      :outcome="outcome"
      :zone="course.zone"
    />
    <FoldPart
      v-if="
        verdict.tally &&
        (verdict.tally.outcomes.length > 1 || verdict.tally.rows.some((one) => one.cost !== null))
      "
      title="All in all"
      :inside="tallyInside"
      :unfolded="verdict.treatments.length <= 8"
    >
      <TallyBoard :id="id" :verdict="verdict" :money="verdict.money" />
    </FoldPart>
    <ul v-if="verdict.beside.length" class="rule mt-6 grid gap-1 pt-4" aria-label="Costs set beside">
      <li v-for="one in verdict.beside" :key="one">{{ one }}</li>
    </ul>
    <FoldPart v-if="verdict.notes.length" title="What was noted" :inside="notesInside">
      <NotesTold :verdict="verdict" />
    </FoldPart>
    <section v-if="verdict.panels.length" class="rule mt-8 pt-5" aria-label="Panels">
      <h2>What the panels say</h2>
      <ul class="mt-2 grid gap-4 lg:grid-cols-2">
        <li v-for="panel in verdict.panels" :key="panel.id">
          <RouterLink
            class="inline-flex min-h-11 items-center font-bold"
            :to="{ name: 'panel', params: { id, panel: panel.id } }"
            >{{ panel.title }}</RouterLink
          >
          <p v-for="says in panel.says" :key="says">{{ says }}</p>
          <TallyStrokes
            v-if="panel.right !== null"
            :solid="panel.right"
            :rest="panel.of - panel.right"
            :label="`${panel.right} of ${panel.of} right`"
          />
          <dl v-if="panel.liked.length" class="mt-2 grid gap-1">
            <div
              v-for="one in panel.liked"
              :key="one.letter"
              class="flex items-center gap-3"
              :data-hue="placeOf(one.letter) % 8"
            >
              <dt class="flex min-w-44 items-center gap-2">
                <span class="grid h-7 min-w-7 place-items-center bg-(--hue) px-1 font-bold text-sheet">{{
                  one.letter
                }}</span>{{ one.name }}
              </dt>
              <dd>
                <TallyStrokes :solid="one.many" :rest="0" :label="`${one.many} liked ${one.name} best`" />
              </dd>
            </div>
          </dl>
        </li>
      </ul>
    </section>
    <div class="rule mt-8 grid gap-x-10 gap-y-6 pt-5 lg:grid-cols-2">
      <div id="not-claimed">
        <h2>May not be claimed</h2>
        <ul class="mt-2 grid list-disc gap-1.5 pl-5">
          <li v-for="one in verdict.not_claimed" :key="one">{{ one }}</li>
        </ul>
      </div>
      <div>
        <h2>Asked and predicted</h2>
        <p class="mt-2">{{ verdict.question }}</p>
        <dl v-if="verdict.predictions.length" class="mt-2 grid gap-1.5">
          <div v-for="one in verdict.predictions" :key="one.by">
            <dt class="inline font-bold">
              {{ one.by }} predicted{{ one.after_start ? ", after the start" : "" }}:
            </dt>
            <dd class="inline">{{ one.text }}</dd>
          </div>
        </dl>
        <p v-else class="mt-1 text-soft">Nobody wrote down a prediction.</p>
        <template v-if="verdict.happened.length">
          <h2 class="mt-5">What happened</h2>
          <ul class="mt-2 grid gap-1.5">
            <li v-for="one in verdict.happened" :key="one">{{ one[0]!.toUpperCase() + one.slice(1) }}</li>
          </ul>
        </template>
        <template v-if="verdict.blinding.length">
          <h2 class="mt-5">Did the blinding hold?</h2>
          <ul class="mt-2 grid gap-1.5">
            <li v-for="one in verdict.blinding" :key="one.scorer">
              {{ one.scorer }}:
              <template v-for="(side, i) in sides(one)" :key="side.name"
                >{{ i ? "; " : "" }}of {{ side.n }} {{ side.name }} {{ side.right }} guessed right,
                {{ side.wrong }} wrong ({{
                  side.held === null
                    ? "too few to say"
                    : side.held
                      ? "no better than chance"
                      : "better than chance"
                }}<template v-if="side.held !== null">, index {{ side.index }}</template
                >)</template
              >.
            </li>
          </ul>
          <p class="mt-1 text-[0.9rem] text-soft">
            Bang’s index: share guessed right less share guessed wrong; 0 is chance, 1 all right. It held
            where its 95 % interval reaches down to 0.
          </p>
        </template>
        <template v-if="verdict.earlier?.found.length">
          <h2 class="mt-5">What it follows</h2>
          <p class="mt-2">“{{ verdict.earlier.title }}” found:</p>
          <ul class="mt-1 grid gap-1.5">
            <li v-for="one in verdict.earlier.found" :key="one">{{ one }}</li>
          </ul>
        </template>
        <template v-if="verdict.amendments.length">
          <h2 class="mt-5">Amended</h2>
          <ul class="mt-2 grid gap-1.5">
            <li v-for="one in verdict.amendments" :key="one.number">
              {{ day(one.decided ?? one.at, course.zone)
              }}<template v-if="one.decided">, written down {{ day(one.at, course.zone) }}</template
              >, {{ one.by }}: {{ one.reason }}
              <span class="text-soft">{{ one.changes.join(" ") }}</span>
            </li>
          </ul>
        </template>
        <h2 class="mt-5">The key</h2>
        <dl class="mt-2 grid gap-1.5">
          <div
            v-for="(one, i) in verdict.treatments"
            :key="one.letter"
            class="flex items-center gap-3"
            :data-hue="i % 8"
          >
            <dt class="grid h-7 min-w-7 place-items-center bg-(--hue) px-1 font-bold text-sheet">
              {{ one.letter }}
            </dt>
            <dd>{{ one.name }}<span v-if="one.kind !== 'treatment'" class="text-soft">, control</span></dd>
          </div>
        </dl>
        <p v-if="verdict.origin !== 'table'" class="mt-3 text-[0.9rem] text-soft">
          Sealed plan and key: <span class="code font-normal break-all">{{ verdict.seal }}</span>
        </p>
      </div>
    </div>
    <FollowUp
      v-if="verdict.treatments.length > 2 && !verdict.panels_alone && !verdict.instruments"
      :id="id"
      :treatments="verdict.treatments"
      :leader="verdict.findings.find((one) => one.claim)?.strength.winners[0] ?? null"
    />
  </section>
</template>
