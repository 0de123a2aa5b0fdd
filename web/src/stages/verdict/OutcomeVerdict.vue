<script setup lang="ts">
import { sure } from "@/parts/sure";
/** One outcome's verdict: sentence, strength, dots, who leads when, pairs, each look. */
import { computed, ref } from "vue";

import BehindVerdict from "./BehindVerdict.vue";
import FoldPart from "@/parts/FoldPart.vue";
import HuedSentence from "./HuedSentence.vue";
import LooksTable from "./LooksTable.vue";
import MiddleAndEnds from "./MiddleAndEnds.vue";
import PairsTable from "./PairsTable.vue";
import SettleBox from "./SettleBox.vue";
import WhatToUse from "./WhatToUse.vue";
import WhyDialog from "./WhyDialog.vue";
import CoursesChart from "@/charts/CoursesChart.vue";
import CurvesChart from "@/charts/CurvesChart.vue";
import DotsChart, { type DotRow } from "@/charts/DotsChart.vue";
import LeadsChart from "@/charts/LeadsChart.vue";
import PlacesChart, { type PlacesLine } from "@/charts/PlacesChart.vue";
import SeriesChart, { type Series } from "@/charts/SeriesChart.vue";
import { LEVELS } from "@/parts/levels";
import { amount, honest, unitOf } from "@/parts/amounts";
import { moment } from "@/parts/moments";
import type { Schemas } from "@/shell/api/client";
import { sampleOf } from "@/parts/nouns";
import WideTable from "@/parts/WideTable.vue";

const props = defineProps<{
  id: string;
  verdict: Schemas["VerdictOut"];
  outcome: Schemas["JudgedOut"];
  zone: string;
}>();
const why = ref<Schemas["Finding"] | null>(null);
const findings = computed(() => props.verdict.findings.filter((one) => one.outcome === props.outcome.key));
const main = computed(() => sure(findings.value.find((one) => one.checkpoint === null)));
const looks = computed(() => findings.value.filter((one) => one.checkpoint !== null));
const withAll = computed(() => props.verdict.with_all.find((one) => one.outcome === props.outcome.key));
const change = computed(() => ["change", "percent", "slope"].includes(props.outcome.summary.kind));
/** Still in the outcome's own unit, so that a sample that is set aside can be shown beside the others. */
const plain = computed(
  () => ["value", "change"].includes(props.outcome.summary.kind) && props.outcome.scale.kind !== "event",
);
const distance = computed(() => props.outcome.better === "target" && props.outcome.target !== null);
const letterOf = (name: string) => props.verdict.treatments.findIndex((one) => one.name === name);

function valueOf(sample: Schemas["JudgedSample"]): number | undefined {
  const number = sample.numbers[props.outcome.key];
  if (number !== undefined) return distance.value ? Math.abs(number - sure(props.outcome.target)) : number;
  if (!plain.value) return undefined;
  const own = sample.values[props.outcome.key] ?? {};
  const last = own[props.outcome.judged_at];
  const first =
    props.outcome.summary.kind === "change"
      ? own[props.outcome.summary.baseline ?? sure(props.outcome.looks[0]).key]
      : 0;
  if (last === undefined || first === undefined) return undefined;
  return distance.value ? Math.abs(last - first - sure(props.outcome.target)) : last - first;
}
const rows = computed<DotRow[]>(() => {
  const made = main.value.comparison.treatments.map((one) => {
    const hue = letterOf(one.treatment);
    const { letter } = sure(props.verdict.treatments[hue]);
    const dots = props.verdict.samples.flatMap((sample) => {
      const value = sample.letter === letter ? valueOf(sample) : undefined;
      return value === undefined ? [] : [{ code: sample.code, value, aside: sample.set_aside !== null }];
    });
    return {
      letter,
      hue: hue % 8,
      name: one.treatment,
      n: one.n,
      estimate: one.estimate,
      low: one.low,
      high: one.high,
      dots,
    };
  });
  const turn = main.value.comparison.column.better === "more" ? -1 : 1;
  return made.sort((a, b) => turn * ((a.estimate ?? 0) - (b.estimate ?? 0)));
});
const lines = computed(() =>
  props.verdict.treatments.map((one, i) => ({
    letter: one.letter,
    hue: i % 8,
    name: one.name,
    points: looks.value.flatMap((look) => {
      const value = sure(look.comparison.treatments[i]).estimate;
      return value === null
        ? []
        : [{ at: sure(props.outcome.looks.find((l) => l.key === look.checkpoint)).offset, value }];
    }),
  })),
);
const behind = computed(() => props.verdict.behind.find((one) => one.outcome === props.outcome.key));
const series = computed<Series[]>(() =>
  lines.value.map((line) => ({
    ...line,
    mean: line.points,
    samples: props.verdict.samples
      .filter((sample) => sample.letter === line.letter && !sample.set_aside)
      .map((sample) => ({
        code: sample.code,
        points: props.outcome.looks.flatMap((look) => {
          const value = sample.values[props.outcome.key]?.[look.key];
          return value === undefined
            ? []
            : [
                {
                  at: look.offset,
                  value: distance.value ? Math.abs(value - sure(props.outcome.target)) : value,
                },
              ];
        }),
      })),
  })),
);
const curves = computed(() =>
  props.verdict.samples.flatMap((sample) =>
    sample.curves[props.outcome.key] && !sample.set_aside
      ? [{ code: sample.code, letter: sample.letter, responses: sure(sample.curves[props.outcome.key]) }]
      : [],
  ),
);
const checkpoints = computed(() => props.outcome.looks.map((look) => ({ at: look.offset, name: look.name })));
const aside = computed(() => props.verdict.samples.filter((sample) => sample.set_aside));
const leftOut = computed(() => props.verdict.samples.filter((sample) => sample.left_out));
const letters = computed(() =>
  Object.fromEntries(
    props.verdict.treatments.map((one, i) => [one.name, { letter: one.letter, hue: i % 8 }]),
  ),
);
const half = (value: number | null) => (value === null ? "not reached" : amount(value, main.value.scale));
const courseEnd = computed(() => {
  const { scale } = props.outcome;
  const numbers = main.value.numbers.filter((one): one is number => one !== null);
  return scale.kind === "ladder"
    ? sure(scale.steps.at(-1))
    : Math.max(...main.value.courses.flatMap((one) => one.times), ...numbers, 1);
});
/** The picture of a verdict that depends: who wins where, by what it depends on. */
const depends = computed(() =>
  main.value.strength.by === null
    ? undefined
    : main.value.where.find((one) => one.by === main.value.strength.by),
);
const placesLines = computed<PlacesLine[]>(() => {
  const where = depends.value;
  if (!where) return [];
  const factor = props.verdict.factors.find((one) => one.name.trim().toLowerCase() === where.by);
  const placeOf = (sample: Schemas["JudgedSample"]) => {
    const treatment = sure(props.verdict.treatments.find((one) => one.letter === sample.letter));
    return factor
      ? factor.levels.find((level) => level.key === treatment.levels[factor.key])?.name
      : sample.block;
  };
  const nameOf = (sample: Schemas["JudgedSample"]) => {
    const treatment = sure(props.verdict.treatments.find((one) => one.letter === sample.letter));
    if (!factor) return treatment.name;
    const others = props.verdict.factors.filter((one) => one.key !== factor.key);
    return others
      .map((one) => one.levels.find((level) => level.key === treatment.levels[one.key])?.name ?? "")
      .join(" / ");
  };
  return where.treatments.map((name, i) => {
    const found = factor ? -1 : letterOf(name);
    const letter =
      found >= 0 ? sure(props.verdict.treatments[found]).letter : name.trim().charAt(0).toUpperCase();
    return {
      letter,
      hue: (found >= 0 ? found : i) % 8,
      name,
      points: where.places.flatMap((place) => {
        const look =
          where.by === "time" ? props.outcome.looks.find((one) => one.name === place.place) : undefined;
        const samples = props.verdict.samples.flatMap((sample) => {
          const seen = look ? sample.values[props.outcome.key]?.[look.key] : undefined;
          if (look)
            return sample.set_aside === null && nameOf(sample) === name && seen !== undefined
              ? [{ code: sample.code, value: seen }]
              : [];
          const value =
            sample.set_aside === null && placeOf(sample) === place.place && nameOf(sample) === name
              ? valueOf(sample)
              : undefined;
          return value === undefined ? [] : [{ code: sample.code, value }];
        });
        return samples.length
          ? [
              {
                place: place.place,
                samples,
                mean: samples.reduce((sum, one) => sum + one.value, 0) / samples.length,
              },
            ]
          : [];
      }),
    };
  });
});
const placesWon = computed(() =>
  (depends.value?.places ?? []).map((one) => ({ place: one.place, won: one.won, first: one.winner })),
);
const leftBetween = (one: Schemas["Departed"]) => {
  if (!one.told) return "fewer than four steps";
  return one.low === null || one.high === null
    ? "half did not leave it"
    : `${honest(one.low, 3)} and ${honest(one.high, 3)} ${props.outcome.scale.kind === "curve" ? props.outcome.scale.step_unit : ""}`;
};
const end = computed(() => main.value.courses[0]?.end ?? 0);
const percentOf = (share: number) => `${honest(100 * share, 2)} %`;
/** With more treatments than that, names are sorted and told in words, and tables stay folded. */
const MANY = 8;
const told = computed(() => props.verdict.told.find((one) => one.outcome === props.outcome.key));
const uses = computed(() =>
  props.outcome.key === props.verdict.outcomes.find((one) => one.primary && one.better !== "none")?.key
    ? props.verdict.uses
    : [],
);
const ofMany = computed(() => {
  const known = (told.value?.treatments ?? []).filter((one) => one.figure !== "no reading");
  const last = known.at(-1);
  if (known.length <= MANY || !last || main.value.sentence.includes(`last of ${known.length} `)) return "";
  const first = known.slice(0, 3).map((one) => `${one.treatment} ${one.figure}`);
  return `First: ${first.join(", ")}. Last of ${known.length}: ${last.treatment} ${last.figure}.`;
});
const pairsInside = computed(() => told.value?.inside ?? "");
const looksInside = computed(
  () => `${looks.value.length} looks, who was ahead at each, and how sure that is. Supporting only.`,
);
const axis = computed(() =>
  [
    distance.value ? `distance from ${props.outcome.target}` : "",
    change.value ? "change" : "",
    unitOf(main.value.scale),
  ]
    .filter(Boolean)
    .join(", "),
);
</script>

<template>
  <article>
    <h1 class="mt-3 max-w-4xl text-[1.7rem] leading-tight lg:text-[2.15rem]">
      <HuedSentence :text="main.sentence" :treatments="verdict.treatments" />
    </h1>
    <p class="mt-3 flex flex-wrap items-center gap-x-4 gap-y-1">
      <b class="border-2 border-ink px-4 py-1 text-[1.05rem]" data-test="level">{{
        LEVELS[main.strength.level]
      }}</b>
      <span>{{ main.claim ? main.strength.because : `Supporting only. ${main.strength.because}` }}</span>
      <button class="quiet" @click="why = main">Why?</button>
    </p>
    <p v-if="ofMany" class="mt-1">{{ ofMany }}</p>
    <p v-if="withAll" class="mt-1 text-soft">
      With {{ [...aside, ...leftOut].map((sample) => sample.code).join(", ") }} counted in full, the verdict
      is
      {{
        withAll.level === main.strength.level
          ? "the same"
          : `another: ${LEVELS[withAll.level]?.toLowerCase()}`
      }}.
    </p>
    <section v-if="depends" class="mt-6 max-w-5xl min-w-0" data-test="depends">
      <h2>Who wins where, by {{ depends.by }}</h2>
      <PlacesChart
        class="mt-3"
        :places="placesWon"
        :lines="placesLines"
        :scale="main.scale"
        :title="`${outcome.name}: who wins where`"
      />
    </section>
    <div
      class="mt-6 grid gap-x-10 gap-y-7"
      :class="uses.length ? 'xl:grid-cols-[minmax(0,1.5fr)_minmax(0,1fr)]' : 'max-w-5xl'"
    >
      <section class="min-w-0" :class="{ 'order-last xl:order-none': rows.length > MANY }">
        <h2 class="border-b-2 border-ink pb-1">
          {{ outcome.name }} {{ main.when }}, each {{ verdict.sample_word }} a dot
        </h2>
        <DotsChart
          class="mt-3"
          :rows="rows"
          :scale="main.scale"
          :change="change || distance"
          :title="`${outcome.name} ${main.when}`"
          :axis="axis"
        />
        <p class="mt-1 text-soft">
          Bar: where the true mean lies, {{ 100 - Math.round(100 * verdict.alpha) }} times in 100. Mark: the
          mean.
          <template v-for="sample in aside" :key="sample.code">
            Empty dot: {{ sample.code }}, {{ sample.set_aside }}, left out{{
              sample.aside_after_key ? " after the key was opened" : ""
            }}.
          </template>
          <template v-for="sample in leftOut" :key="sample.code">
            {{ sample.code }} counts up to {{ moment(sample.left_out_since!, zone) }} only:
            {{ sample.left_out }}{{ sample.aside_after_key ? ", decided after the key was opened" : "" }}.
          </template>
        </p>
      </section>
      <WhatToUse :uses="uses" />
    </div>
    <div class="mt-8 border-t-2 border-ink">
      <FoldPart title="Each against each" :inside="pairsInside">
        <PairsTable :finding="main" :verdict="verdict" />
      </FoldPart>
      <FoldPart v-if="looks.length > 1" title="Look by look" :inside="looksInside">
        <LeadsChart
          class="mt-2 max-w-4xl"
          :lines="lines"
          :checkpoints="checkpoints"
          :scale="outcome.scale"
          :title="`${outcome.name} over time`"
        />
        <LooksTable :looks="looks" :verdict="verdict" :levels="LEVELS" @why="(one) => (why = one)" />
      </FoldPart>
      <FoldPart
        v-if="checkpoints.length > 2 && outcome.scale.kind !== 'event'"
        :title="`Every ${verdict.sample_word} over time`"
        :inside="`${verdict.samples.length} lines, treatment by treatment.`"
      >
        <SeriesChart
          class="mt-3"
          :series="series"
          :checkpoints="checkpoints"
          :scale="outcome.scale"
          :title="`${outcome.name}, each ${verdict.sample_word}`"
        />
      </FoldPart>
      <FoldPart
        v-if="curves.length && outcome.scale.kind === 'curve'"
        title="Every curve"
        inside="The response at each step, and where each treatment leaves its straight line."
      >
        <div class="grid min-w-0 gap-x-10 gap-y-4 xl:grid-cols-[minmax(0,1.55fr)_minmax(0,1fr)]">
          <div class="min-w-0">
            <CurvesChart
              class="mt-3"
              :steps="outcome.scale.steps"
              :unit="outcome.scale.unit"
              :step-unit="outcome.scale.step_unit"
              :departed="behind?.departed ?? []"
              :letters="letters"
              :samples="curves"
              :title="`${outcome.name}, each ${verdict.sample_word}`"
            />
          </div>
          <div class="min-w-0">
            <h2>Where it leaves its straight line</h2>
            <WideTable class="mt-2"
              ><table class="figures">
                <thead>
                  <tr>
                    <th scope="col">Treatment</th>
                    <th scope="col" class="number">Leave it</th>
                    <th scope="col" class="number">Half between</th>
                  </tr>
                </thead>
                <tbody>
                  <tr v-for="one in behind?.departed ?? []" :key="one.treatment">
                    <th scope="row">{{ one.treatment }}</th>
                    <td class="number">{{ one.told ? `${one.left} of ${one.told}` : "cannot be told" }}</td>
                    <td class="number">{{ leftBetween(one) }}</td>
                  </tr>
                </tbody>
              </table></WideTable
            >
            <p class="mt-1 text-soft">
              The line goes through the first steps, as long as they keep to it; a curve has left it where all
              that follows lies more than a tenth away. Nobody looked between two steps. It takes four to
              tell.
            </p>
          </div>
        </div>
      </FoldPart>
      <FoldPart
        v-if="main.courses.length"
        :title="outcome.scale.kind === 'ladder' ? 'How many hold how much' : 'How many are still without it'"
        inside="The share left, treatment by treatment, and by when half had it."
        :unfolded="verdict.treatments.length <= MANY"
      >
        <div class="max-w-3xl">
          <CoursesChart
            class="mt-2"
            :courses="main.courses"
            :letters="letters"
            :unit="unitOf(main.scale)"
            :end="courseEnd"
            :title="`${outcome.name}: share left`"
          />
          <WideTable label="Half by" class="min-w-0">
            <table class="figures mt-2">
              <thead>
                <tr>
                  <th scope="col">Treatment</th>
                  <th class="number" scope="col">
                    {{ outcome.scale.kind === "ladder" ? "gave way" : "had it" }}
                  </th>
                  <th class="number" scope="col">
                    {{ outcome.scale.kind === "ladder" ? "still holds" : "still without it" }} at
                    {{ amount(end, main.scale) }}
                  </th>
                  <th class="number" scope="col">Half by</th>
                  <th class="number" scope="col">
                    {{ 100 - Math.round(100 * verdict.alpha) }} in 100 between
                  </th>
                </tr>
              </thead>
              <tbody>
                <tr v-for="one in main.courses" :key="one.treatment">
                  <th scope="row">{{ one.treatment }}</th>
                  <td class="number">{{ one.seen }} of {{ one.n }}</td>
                  <td class="number">
                    {{ percentOf(one.left)
                    }}{{
                      one.left_low === null || one.left_high === null
                        ? ""
                        : ` (${percentOf(one.left_low)} to ${percentOf(one.left_high)})`
                    }}
                  </td>
                  <td class="number">{{ half(one.median) }}</td>
                  <td class="number">
                    {{
                      one.low === null
                        ? "not reached"
                        : `${honest(one.low, 3)} and ${one.high === null ? "no end" : honest(one.high, 3)}`
                    }}
                  </td>
                </tr>
              </tbody>
            </table>
          </WideTable>
        </div>
      </FoldPart>
      <MiddleAndEnds :id="id" :verdict="verdict" :outcome="outcome" :main="main" />
      <BehindVerdict :verdict="verdict" :outcome="outcome" :main="main" :levels="LEVELS" />
    </div>
    <SettleBox
      v-if="behind?.settle.length"
      :id="id"
      :settle="behind.settle"
      :money="verdict.money"
      :sample="sampleOf(verdict)"
    />
    <WhyDialog
      v-if="why"
      :finding="why"
      :level="LEVELS[why.strength.level]!"
      :alpha="verdict.alpha"
      @close="why = null"
    />
  </article>
</template>
