<script setup lang="ts">
/** What lies behind one outcome's verdict: where, when, factors, levelling, percent of control; and how firm
 * it stands.
 */
import { computed } from "vue";

import LetterChip from "./LetterChip.vue";
import { everywhere } from "./where";
import CrossedChart, { type CrossedLine } from "@/charts/CrossedChart.vue";
import { honest, unitOf } from "@/parts/amounts";
import type { Schemas } from "@/shell/api/client";

const props = defineProps<{
  verdict: Schemas["VerdictOut"];
  outcome: Schemas["JudgedOut"];
  main: Schemas["Finding"];
  levels: Record<string, string>;
}>();
const behind = computed(() => props.verdict.behind.find((one) => one.outcome === props.outcome.key));
const odd = computed(() => props.verdict.without_odd.find((one) => one.outcome === props.outcome.key));
const scorers = computed(() => props.verdict.by_scorer.filter((one) => one.outcome === props.outcome.key));
const p = (value: number | null) =>
  value === null ? "cannot be told" : value < 0.0001 ? "under 0.0001" : honest(value, 2);
const more = (value: number | null) =>
  value === null
    ? "One sample of each in a place cannot tell whether that is chance."
    : value <= props.verdict.alpha
      ? `More than chance does (p ${p(value)}).`
      : `Chance may do that (p ${p(value)}).`;
const known = (name: string) => props.verdict.treatments.some((one) => one.name === name);
const told = (where: Schemas["Where"]) =>
  where.p === null
    ? "One sample of each in a place cannot tell whether that differs by more than chance."
    : `The treatments’ distances differ from ${where.by} to ${where.by} ${where.p <= props.verdict.alpha ? "by more than chance does" : "by no more than chance may do"} (p ${p(where.p)}).`;
/** A word on a verdict that was computed otherwise: only what is different. */
const against = (one: { level: string; sentence: string }) =>
  one.sentence === props.main.sentence
    ? "the verdict is the same, word for word."
    : `${props.levels[one.level]?.toLowerCase()}. ${one.sentence}`;
const lookName = (key: string) => props.outcome.looks.find((one) => one.key === key)?.name ?? key;
const turns = computed(() => {
  const when = behind.value?.when;
  if (!when) return "";
  const leaders = when.leaders as [string, string | null][];
  const named = leaders.filter(([, name]) => name !== null);
  const first = named[0];
  const last = named.at(-1);
  if (!first || !last) return "";
  return first[1] === last[1]
    ? `${last[1]} leads at the first look and at the last.`
    : `${first[1]} leads at ${lookName(first[0])}, ${last[1]} at ${lookName(last[0])}.`;
});
const levelled = computed(() =>
  (behind.value?.levelled ?? []).filter((one) => one.off_at !== null || one.plateau !== null),
);
/** The first two factors crossed: what each does at each level of the other. */
const crossed = computed(() => {
  const [first, second] = props.verdict.factors;
  if (!first || !second || !behind.value?.effects.length) return null;
  const lines: CrossedLine[] = second.levels.map((line) => ({
    name: line.name,
    points: first.levels.flatMap((level) => {
      const letters = props.verdict.treatments
        .filter((one) => one.levels[first.key] === level.key && one.levels[second.key] === line.key)
        .map((one) => one.letter);
      const samples = props.verdict.samples.flatMap((one) => {
        const value = one.numbers[props.outcome.key];
        return letters.includes(one.letter) && value !== undefined && !one.set_aside
          ? [{ code: one.code, value }]
          : [];
      });
      return samples.length
        ? [
            {
              level: level.name,
              samples,
              mean: samples.reduce((sum, one) => sum + one.value, 0) / samples.length,
            },
          ]
        : [];
    }),
  }));
  return {
    levels: first.levels.map((one) => one.name),
    lines,
    axis: `${first.name} below, ${second.name} a line each.`,
    title: `${first.name} × ${second.name}`,
  };
});
const changed = (stage: Schemas["Staged"], i: number) => {
  const [before, after] = [stage.means_before[i] ?? null, stage.means_after[i] ?? null];
  return before === null || after === null ? "–" : honest(after - before, 3);
};
const times = (one: Schemas["TimesAsMuch"]) =>
  one.low === null && one.high === null
    ? "no bound"
    : `${one.low === null ? "0" : honest(one.low, 3)} to ${one.high === null ? "no end" : honest(one.high, 3)}`;
const shown = (value: number | null) => (value === null ? "–" : honest(value, 3));
const any = computed(
  () =>
    Boolean(
      behind.value &&
      (behind.value.where.length ||
        behind.value.when ||
        behind.value.effects.length ||
        behind.value.ratios.length ||
        behind.value.stages.length ||
        levelled.value.length ||
        behind.value.of_control.length),
    ) ||
    Boolean(odd.value) ||
    scorers.value.length > 0,
);
</script>

<template>
  <section
    v-if="any"
    class="rule mt-8 grid gap-x-10 gap-y-7 pt-5 lg:grid-cols-2"
    aria-label="Behind the verdict"
  >
    <div
      v-for="where in behind?.where ?? []"
      :key="where.by"
      class="min-w-0 overflow-x-auto"
      tabindex="0"
      role="region"
      :aria-label="`Who wins where, by ${where.by}`"
    >
      <h2>Who wins where</h2>
      <table class="figures mt-1">
        <thead>
          <tr>
            <th scope="col">{{ where.by.charAt(0).toUpperCase() + where.by.slice(1) }}</th>
            <th scope="col">First</th>
            <th v-for="name in where.treatments" :key="name" class="number" scope="col">
              <LetterChip v-if="known(name)" :treatments="verdict.treatments" :name="name" /><template
                v-else
                >{{ name }}</template
              >
            </th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="place in where.places" :key="place.place">
            <th scope="row">{{ place.place }}</th>
            <td>
              <LetterChip
                v-if="place.winner === null || known(place.winner)"
                :treatments="verdict.treatments"
                :name="place.winner"
              /><template v-else>{{ place.winner }}</template
              ><template v-if="place.won"> by its own test</template>
            </td>
            <td v-for="(mean, i) in place.means" :key="i" class="number">
              {{ mean === null ? "–" : shown(main.comparison.column.better === "more" ? mean : -mean) }}
            </td>
          </tr>
        </tbody>
      </table>
      <p class="mt-1">{{ everywhere(where) }} {{ told(where) }}</p>
      <p class="text-soft">Means{{ unitOf(main.scale) ? `, ${unitOf(main.scale)}` : "" }}.</p>
    </div>
    <div v-if="behind?.when">
      <h2>Quick against thorough</h2>
      <p class="mt-1">
        {{ turns }}
        {{
          behind.when.p === null
            ? ""
            : `They change differently over time: ${more(behind.when.p).toLowerCase()}`
        }}
      </p>
      <p v-if="behind.when.parts" class="mt-1">
        From {{ lookName(behind.when.parts) }} on they are apart at every look.
      </p>
      <p v-else class="mt-1">There is no look from which on they stay apart.</p>
    </div>
    <div v-if="behind?.effects.length">
      <h2>What each factor does</h2>
      <table class="figures mt-1">
        <thead>
          <tr>
            <th scope="col">Factor</th>
            <th class="number" scope="col">p</th>
            <th scope="col">Told by</th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="one in behind.effects" :key="one.factors.join()">
            <th scope="row">{{ one.factors.join(" × ") }}</th>
            <td class="number">{{ p(one.p) }}</td>
            <td>
              {{
                {
                  exact: "all arrangements",
                  draws: "shuffles",
                  residuals: "shuffled residuals",
                  none: "the layout cannot tell",
                }[one.method]
              }}
            </td>
          </tr>
        </tbody>
      </table>
      <p class="mt-1 text-soft">× asks whether what one does depends on the other.</p>
      <CrossedChart
        v-if="crossed"
        class="mt-3"
        :levels="crossed.levels"
        :lines="crossed.lines"
        :scale="main.scale"
        :title="crossed.title"
        :axis="crossed.axis"
      />
    </div>
    <div
      v-for="stage in behind?.stages ?? []"
      :key="stage.before"
      class="min-w-0 overflow-x-auto"
      tabindex="0"
      role="region"
      :aria-label="`${stage.before} against ${stage.after}`"
    >
      <h2>Before and after</h2>
      <table class="figures mt-1">
        <thead>
          <tr>
            <th scope="col">Treatment</th>
            <th class="number" scope="col">{{ stage.before }}</th>
            <th class="number" scope="col">{{ stage.after }}</th>
            <th class="number" scope="col">Change</th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="(one, i) in verdict.treatments" :key="one.letter">
            <th scope="row">{{ one.name }}</th>
            <td class="number">{{ shown(stage.means_before[i] ?? null) }}</td>
            <td class="number">{{ shown(stage.means_after[i] ?? null) }}</td>
            <td class="number">{{ changed(stage, i) }}</td>
          </tr>
        </tbody>
      </table>
      <p class="mt-1">
        {{ stage.p === null ? "" : `The changes differ between treatments: ${more(stage.p).toLowerCase()}` }}
      </p>
      <p class="text-soft">Means{{ unitOf(outcome.scale) ? `, ${unitOf(outcome.scale)}` : "" }}.</p>
    </div>
    <div
      v-if="behind?.ratios.length"
      class="min-w-0 overflow-x-auto"
      tabindex="0"
      role="region"
      aria-label="How many times as much"
    >
      <h2>{{ outcome.scale.kind === "curve" ? "How many times as yielding" : "How many times as much" }}</h2>
      <table class="figures mt-1">
        <thead>
          <tr>
            <th scope="col">Pair</th>
            <th class="number" scope="col">Times</th>
            <th class="number" scope="col">{{ 100 - Math.round(100 * verdict.alpha) }} in 100 between</th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="one in behind.ratios" :key="one.a + one.b">
            <th scope="row">
              <LetterChip :treatments="verdict.treatments" :name="one.a" /> ÷
              <LetterChip :treatments="verdict.treatments" :name="one.b" />
            </th>
            <td class="number">{{ honest(one.ratio, 3) }}</td>
            <td class="number">{{ times(one) }}</td>
          </tr>
        </tbody>
      </table>
    </div>
    <div
      v-if="levelled.length"
      class="min-w-0 overflow-x-auto lg:col-span-2"
      tabindex="0"
      role="region"
      aria-label="Levelled off"
    >
      <h2>Levelled off?</h2>
      <table class="figures mt-1 max-w-4xl">
        <thead>
          <tr>
            <th scope="col">Treatment</th>
            <th class="number" scope="col">no change that matters after</th>
            <th class="number" scope="col">95 % of the way at</th>
            <th class="number" scope="col">ends near</th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="one in levelled" :key="one.treatment">
            <th scope="row">{{ one.treatment }}</th>
            <td class="number">
              {{ one.off_at === null ? "not yet" : `${shown(one.off_at)} ${behind!.unit}` }}
            </td>
            <td class="number">
              {{ one.time_to_95 === null ? "–" : `${shown(one.time_to_95)} ${behind!.unit}` }}
            </td>
            <td class="number">{{ shown(one.plateau) }}</td>
          </tr>
        </tbody>
      </table>
    </div>
    <div v-if="behind?.of_control.length">
      <h2>In percent of the control</h2>
      <table class="figures mt-1">
        <tbody>
          <tr v-for="one in behind.of_control" :key="one.treatment">
            <th scope="row">{{ one.treatment }}</th>
            <td class="number">{{ Math.round(one.percent) }} %</td>
          </tr>
        </tbody>
      </table>
    </div>
    <div v-if="odd || scorers.length">
      <h2>How firm is it?</h2>
      <p v-if="odd" class="mt-1">
        Without readings that lie far from all others of their treatment: {{ against(odd) }}
      </p>
      <p v-for="one in scorers" :key="one.scorer" class="mt-1">
        By {{ one.scorer }} alone: {{ against(one) }}
      </p>
    </div>
  </section>
</template>
