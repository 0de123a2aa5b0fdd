<script setup lang="ts">
/** What lies behind one outcome's verdict: where, when, factors, levelling, percent of control; and how firm
 * it stands.
 */
import { computed } from "vue";

import FoldPart from "@/parts/FoldPart.vue";
import LetterChip from "./LetterChip.vue";
import { everywhere } from "./where";
import CrossedChart, { type CrossedLine } from "@/charts/CrossedChart.vue";
import { honest, meanOf, unitOf, withUnit } from "@/parts/amounts";
import type { Schemas } from "@/shell/api/client";
import WideTable from "@/parts/WideTable.vue";

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
  value === null ? "cannot be told" : honest(value, value >= 0.001 ? 2 : 1);
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
/** A time is told in its own unit, whatever the outcome is told in. */
const after = (time: number) => withUnit(honest(time, 2), behind.value?.unit ?? "");
const shown = (value: number | null) => (value === null ? "–" : meanOf(value, props.outcome.scale));
/** With more treatments than that a table has a row for each of them. */
const MANY = 8;
const meanAt = (mean: number | null) =>
  mean === null
    ? "–"
    : meanOf(props.main.comparison.column.better === "more" ? mean : -mean, props.main.scale);
/** The treatments of a table (numbers), the best over all places first. */
function sorted(where: Schemas["Where"]): number[] {
  const over = (at: number) => {
    const own = where.places.map((one) => one.means[at] ?? null).filter((one) => one !== null);
    return own.length ? own.reduce((sum, one) => sum + one, 0) / own.length : -Infinity;
  };
  return where.treatments.map((_, at) => at).sort((a, b) => over(b) - over(a));
}
const firm = computed(() =>
  [
    odd.value ? "Without odd readings" : "",
    scorers.value.length ? `by each of ${scorers.value.length} scorers alone` : "",
  ]
    .filter(Boolean)
    .join(", ")
    .replace(/$/, "."),
);
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
  <div v-if="any" role="group" aria-label="Behind the verdict">
    <FoldPart
      v-for="where in behind?.where ?? []"
      :key="where.by"
      :title="`Who wins where, by ${where.by}`"
      :inside="`Who came first in each of ${where.places.length}, and every mean.`"
    >
      <WideTable class="mt-1" :label="`Who wins where, by ${where.by}`">
        <table v-if="where.treatments.length > MANY" class="figures stands">
          <thead>
            <tr>
              <th scope="col">Treatment</th>
              <th v-for="place in where.places" :key="place.place" class="number" scope="col">
                {{ place.place }}
              </th>
            </tr>
          </thead>
          <tbody>
            <tr v-for="at in sorted(where)" :key="where.treatments[at]">
              <th scope="row">{{ where.treatments[at] }}</th>
              <td
                v-for="place in where.places"
                :key="place.place"
                class="number"
                :class="{ 'font-bold': place.winner === where.treatments[at] }"
              >
                {{ meanAt(place.means[at] ?? null) }}
              </td>
            </tr>
          </tbody>
        </table>
        <table v-else class="figures">
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
                {{ meanAt(mean) }}
              </td>
            </tr>
          </tbody>
        </table></WideTable
      >
      <p class="mt-1">{{ everywhere(where) }} {{ told(where) }}</p>
      <p class="text-soft">Means{{ unitOf(main.scale) ? `, ${unitOf(main.scale)}` : "" }}.</p>
    </FoldPart>
    <FoldPart v-if="behind?.when" title="Quick against thorough" :inside="turns">
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
    </FoldPart>
    <FoldPart
      v-if="behind?.effects.length"
      title="What each factor does"
      :inside="`${verdict.factors.map((one) => one.name).join(', ')}, and whether one depends on another.`"
    >
      <WideTable label="What each factor does">
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
      </WideTable>
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
    </FoldPart>
    <FoldPart
      v-for="stage in behind?.stages ?? []"
      :key="stage.before"
      title="Before and after"
      :inside="`${stage.before} against ${stage.after}.`"
    >
      <WideTable label="Before and after">
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
      </WideTable>
      <p class="mt-1">
        {{ stage.p === null ? "" : `The changes differ between treatments: ${more(stage.p).toLowerCase()}` }}
      </p>
      <p class="text-soft">Means{{ unitOf(outcome.scale) ? `, ${unitOf(outcome.scale)}` : "" }}.</p>
    </FoldPart>
    <FoldPart
      v-if="behind?.ratios.length"
      :title="outcome.scale.kind === 'curve' ? 'How many times as yielding' : 'How many times as much'"
      :inside="`Of each pair, with bounds.`"
    >
      <WideTable
        :label="outcome.scale.kind === 'curve' ? 'How many times as yielding' : 'How many times as much'"
      >
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
      </WideTable>
    </FoldPart>
    <FoldPart
      v-if="levelled.length"
      title="Levelled off?"
      inside="From when on nothing changed that matters, and where it ends."
    >
      <WideTable label="Levelled off?">
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
                {{ one.off_at === null ? "not yet" : after(one.off_at) }}
              </td>
              <td class="number">
                {{ one.time_to_95 === null ? "–" : after(one.time_to_95) }}
              </td>
              <td class="number">{{ shown(one.plateau) }}</td>
            </tr>
          </tbody>
        </table>
      </WideTable>
    </FoldPart>
    <FoldPart
      v-if="behind?.of_control.length"
      title="In percent of the control"
      inside="Each mean against the control’s."
    >
      <WideTable label="In percent of the control">
        <table class="figures mt-1">
          <tbody>
            <tr v-for="one in behind.of_control" :key="one.treatment">
              <th scope="row">{{ one.treatment }}</th>
              <td class="number">{{ Math.round(one.percent) }} %</td>
            </tr>
          </tbody>
        </table>
      </WideTable>
    </FoldPart>
    <FoldPart v-if="odd || scorers.length" title="How firm is it?" :inside="firm">
      <p v-if="odd" class="mt-1">
        Without readings that lie far from all others of their treatment: {{ against(odd) }}
      </p>
      <p v-for="one in scorers" :key="one.scorer" class="mt-1">
        By {{ one.scorer }} alone: {{ against(one) }}
      </p>
    </FoldPart>
  </div>
</template>
