<script setup lang="ts">
import { keys } from "@/shell/queryKeys";
import { sure } from "@/parts/sure";
/** What a panel found: said, shown against what chance gives, and tabulated. */
import { useQuery } from "@tanstack/vue-query";
import { computed } from "vue";

import ChanceChart from "./ChanceChart.vue";
import GradeDots from "./GradeDots.vue";
import NothingHere from "@/parts/NothingHere.vue";
import TallyStrokes from "@/parts/TallyStrokes.vue";
import { alike, honest } from "@/parts/amounts";
import { answer, api, type Schemas } from "@/shell/api/client";
import { problemsOf } from "@/shell/api/problems";
import WideTable from "@/parts/WideTable.vue";

const props = defineProps<{ id: string }>();
const { data, error } = useQuery({
  queryKey: keys.panelResult(computed(() => props.id)),
  queryFn: () =>
    answer(api.GET("/api/panels/{panel_id}/result", { params: { path: { panel_id: props.id } } })),
});
const finding = computed(() => data.value?.finding);
const percent = (share: number) => `${Math.round(share * 100)} %`;
const p = (value: number) => (value < 0.0001 ? "under 0.0001" : honest(value, 2));
const nameOf = (letter: string) =>
  data.value?.things.find((one) => one.letter === letter)?.name ?? "no preference";
const groups = computed(() => {
  const found = finding.value;
  return found
    ? [
        { name: "By experience", parts: found.experience },
        { name: "By place of the right cup", parts: found.places },
        { name: "By session", parts: found.sessions },
        { name: "By how sure they were", parts: found.confidence },
      ].filter((one) => one.parts.length > 1)
    : [];
});
/** Sets that one person had. */
const each = computed(() => {
  const { sessions = 1, sets = 1, stimuli = [] } = data.value?.plan ?? {};
  return sessions * sets * Math.max(1, stimuli.length);
});
/** No number torn from its sign. */
const sentence = computed(() => (finding.value?.sentence ?? "").replace(/(\d) %/g, "$1\u00a0%"));
const least = computed(() => {
  const seen = finding.value?.monitored;
  return seen ? sure(seen.looks.at(-1)).needed : (finding.value?.found?.needed ?? 0);
});
const signed = (value: number) => alike(value, 2);
const RULES: Record<Schemas["Preferred"]["rule"], string> = {
  drop: "left out",
  split: "shared between the two",
  third: "an answer of their own",
};
const liked = computed(() =>
  [
    { name: "Everybody", rows: finding.value?.preference?.everybody ?? [] },
    { name: "Those who were right", rows: finding.value?.preference?.those_right ?? [] },
  ].flatMap(({ name, rows }) =>
    rows.map((found, i) => ({ name: i ? `${name}; no preference ${RULES[found.rule]}` : name, found })),
  ),
);
/** A cell of the table of names, the darker the more often. */
const shade = (many: number) =>
  `color-mix(in oklab, var(--ink) ${Math.round((45 * many) / Math.max(1, finding.value?.n ?? 1))}%, var(--sheet))`;
</script>

<template>
  <NothingHere v-if="error" :says="problemsOf(error)[0]!.says" />
  <article v-else-if="data && finding">
    <h1 class="mt-2 max-w-4xl text-[1.7rem] leading-tight lg:text-[2.1rem]">{{ sentence }}</h1>
    <p class="mt-2 text-soft">
      {{ data.plan.title }}: {{ data.things.map((one) => `${one.letter} ${one.name}`).join(", ") }}
    </p>
    <p class="no-print">
      <a class="quiet inline-flex items-center" :href="`/api/panels/${id}/answers.csv`" download
        >Save the answers as a table</a
      >
    </p>
    <p v-if="data.late" class="mt-2 text-soft">
      {{ data.late === 1 ? "One answer was" : `${data.late} answers were` }} given before the panel closed and
      came in after it; {{ data.late === 1 ? "it counts" : "they count" }} by when
      {{ data.late === 1 ? "it was" : "they were" }} given.
    </p>
    <p v-if="data.stopped || data.slip" class="mt-2 text-soft">{{ data.stopped }} {{ data.slip }}</p>
    <p v-if="data.closed_because" class="mt-2 border-l-4 border-ink pl-3">
      <b>Ended early:</b> {{ data.closed_because }}
    </p>
    <p v-if="finding.persons?.too_hopeful" class="mt-2 border-l-4 border-ink pl-3 font-bold">
      Counted as answers of different people it would look found (p {{ p(finding.persons.plain_p) }}). That is
      too hopeful: several judgements of one person are not several people.
    </p>
    <p v-for="says in finding.differs" :key="says" class="mt-2 font-bold">{{ says }}</p>
    <ul v-if="finding.stimuli.length" class="mt-3 max-w-4xl" aria-label="Over each by itself">
      <li v-for="one in finding.stimuli" :key="one.name" class="border-b border-line py-2">
        <b>{{ one.name }}:</b> {{ one.sentence }}
      </li>
    </ul>
    <p v-for="one in finding.factors" :key="one.name" class="mt-2">
      <b>{{ one.name }}:</b> {{ one.right }} of {{ one.of }} names had it right; guessing gives
      {{ honest(one.by_chance, 3) }} on average (p {{ p(one.p) }}).
    </p>
    <p v-for="one in finding.liking" :key="one" class="mt-2">{{ one }}</p>
    <ChanceChart
      v-if="finding.found"
      class="mt-6"
      :chance="finding.chance"
      :found="finding.found"
      :least="least"
      :most="finding.most"
      :alike="finding.alike !== null"
    />
    <WideTable v-if="finding.monitored" class="mt-6"
      ><table class="figures max-w-xl">
        <caption class="text-left">
          Looks that were planned
        </caption>
        <thead>
          <tr>
            <th scope="col">After</th>
            <th class="number" scope="col">needed</th>
            <th class="number" scope="col">right</th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="(look, i) in finding.monitored.looks" :key="look.n">
            <th scope="row">{{ look.n }} answers</th>
            <td class="number">{{ look.needed > look.n ? "more than all" : look.needed }}</td>
            <td class="number" :class="{ 'font-bold': i === finding.monitored.crossed }">
              {{ finding.monitored.right[i] ?? "not reached" }}
            </td>
          </tr>
        </tbody>
        <tfoot>
          <tr>
            <td colspan="3" class="text-soft">
              p = {{ p(finding.monitored.p) }}, over all looks that were taken.
            </td>
          </tr>
        </tfoot>
      </table></WideTable
    >
    <WideTable v-if="finding.found" label="Figures" class="mt-6 max-w-3xl">
      <table class="figures">
        <thead>
          <tr>
            <th scope="col">What</th>
            <th class="number" scope="col">Value</th>
            <th class="number" scope="col">between</th>
          </tr>
        </thead>
        <tbody>
          <tr>
            <th scope="row">Right answers</th>
            <td class="number">{{ percent(finding.found.right.value) }}</td>
            <td class="number">
              {{ percent(finding.found.right.low) }} and {{ percent(finding.found.right.high) }}
            </td>
          </tr>
          <tr>
            <th scope="row">People who truly notice</th>
            <td class="number">{{ percent(finding.found.pd.value) }}</td>
            <td class="number">
              {{ percent(finding.found.pd.low) }} and {{ percent(finding.found.pd.high) }}
            </td>
          </tr>
          <tr>
            <th scope="row">Size of the difference, d′</th>
            <td class="number">{{ alike(finding.found.dprime.value, 2) }}</td>
            <td class="number">
              {{ alike(finding.found.dprime.low, 2) }} and
              {{
                finding.found.dprime.high === null || !Number.isFinite(finding.found.dprime.high)
                  ? "no end"
                  : alike(finding.found.dprime.high, 2)
              }}
            </td>
          </tr>
          <tr>
            <th scope="row" class="whitespace-normal">
              Chance of so many by guessing{{ finding.persons ? ", by person" : ", exact" }}
            </th>
            <td class="number">p = {{ p(finding.found.p) }}</td>
            <td />
          </tr>
          <tr v-if="finding.persons">
            <th scope="row" class="whitespace-normal">
              Counted as if each answer were somebody else’s ({{ finding.persons.judgements }} answers of
              {{ finding.persons.persons }} people)
            </th>
            <td class="number">p = {{ p(finding.persons.plain_p) }}</td>
            <td />
          </tr>
        </tbody>
      </table>
    </WideTable>
    <div class="mt-6 grid gap-6 lg:grid-cols-2">
      <section v-for="group in groups" :key="group.name">
        <h2>{{ group.name }}</h2>
        <WideTable class="mt-1"
          ><table class="figures">
            <tbody>
              <tr v-for="part in group.parts" :key="part.name">
                <th scope="row">{{ part.name }}</th>
                <td class="number">{{ part.right }} of {{ part.n }} right</td>
              </tr>
            </tbody>
          </table></WideTable
        >
      </section>
      <section
        v-if="finding.preference"
        class="overflow-x-auto lg:col-span-2"
        tabindex="0"
        role="region"
        aria-label="Preference"
      >
        <h2>Which is liked better</h2>
        <WideTable class="mt-1"
          ><table class="figures max-w-4xl">
            <thead>
              <tr>
                <th scope="col">Among</th>
                <th class="number" scope="col">{{ data.things[0]?.name }}</th>
                <th class="number" scope="col">{{ data.things[1]?.name }}</th>
                <th class="number" scope="col">neither</th>
                <th class="number" scope="col">p</th>
              </tr>
            </thead>
            <tbody>
              <tr v-for="one in liked" :key="one.name">
                <th scope="row" class="min-w-40 whitespace-normal">{{ one.name }}</th>
                <td class="number">{{ one.found.first }}</td>
                <td class="number">{{ one.found.second }}</td>
                <td class="number">{{ one.found.none }}</td>
                <td class="number">{{ p(one.found.p) }}</td>
              </tr>
            </tbody>
          </table></WideTable
        >
        <p class="mt-1 max-w-3xl text-soft">
          Two schools: some ask all, some only those who could tell the two apart. The plan counts answers
          without a preference as {{ RULES[finding.preference.everybody[0]!.rule] }}; counted otherwise, p is
          shown too.
        </p>
      </section>
      <section v-if="finding.favoured">
        <h2>Liked best</h2>
        <WideTable class="mt-1"
          ><table class="figures">
            <tbody>
              <tr v-for="(share, i) in finding.favoured.shares" :key="i">
                <th scope="row">{{ data.things[i]?.name }}</th>
                <td class="number">{{ finding.favoured.counts[i] }}</td>
                <td class="number">
                  {{ percent(share.value) }}, {{ percent(share.low) }} to {{ percent(share.high) }}
                </td>
              </tr>
              <tr v-if="finding.favoured.none">
                <th scope="row">no preference</th>
                <td class="number">{{ finding.favoured.none }}</td>
                <td />
              </tr>
            </tbody></table
        ></WideTable>
        <p class="mt-1 text-soft">All liked alike: p = {{ p(finding.favoured.p) }}.</p>
      </section>
      <section v-if="finding.told">
        <h2>Yes and no</h2>
        <WideTable class="mt-1"
          ><table class="figures">
            <tbody>
              <tr>
                <th scope="row">Yes where it was so</th>
                <td class="number">{{ finding.told.hits }} of {{ finding.told.signals }}</td>
              </tr>
              <tr>
                <th scope="row">Yes where it was not</th>
                <td class="number">{{ finding.told.alarms }} of {{ finding.told.noises }}</td>
              </tr>
              <tr v-if="finding.told.dprime">
                <th scope="row">Size of the difference, d′</th>
                <td class="number">
                  {{ signed(finding.told.dprime.value) }}, {{ signed(finding.told.dprime.low) }} to
                  {{ signed(finding.told.dprime.high) }}
                </td>
              </tr>
            </tbody>
          </table></WideTable
        >
        <p class="mt-1 text-soft">Fisher’s exact test, p = {{ p(finding.told.p) }}.</p>
      </section>
      <section v-for="one in finding.graded" :key="one.attribute.name" class="lg:col-span-2">
        <h2>{{ one.attribute.name }}</h2>
        <GradeDots :graded="one" :things="data.things" />
        <WideTable v-if="one.pairs.length" class="mt-2"
          ><table class="figures max-w-3xl">
            <thead>
              <tr>
                <th scope="col">Difference</th>
                <th class="number" scope="col">steps</th>
                <th class="number" scope="col">between</th>
                <th class="number" scope="col">p, adjusted</th>
              </tr>
            </thead>
            <tbody>
              <tr v-for="pair in one.pairs" :key="`${pair.a}${pair.b}`">
                <th scope="row">{{ data.things[pair.a]?.name }} − {{ data.things[pair.b]?.name }}</th>
                <td class="number">{{ signed(pair.difference.value) }}</td>
                <td class="number">
                  {{ signed(pair.difference.low) }} and {{ signed(pair.difference.high) }}
                </td>
                <td class="number">{{ p(pair.p_adjusted) }}</td>
              </tr>
            </tbody>
          </table></WideTable
        >
        <p class="mt-1 text-soft">
          {{ one.people }} people graded all of them; all alike: p = {{ p(one.p) }} (Friedman).
        </p>
      </section>
      <section
        v-if="finding.named"
        class="overflow-x-auto lg:col-span-2"
        tabindex="0"
        role="region"
        aria-label="What each was called"
      >
        <h2>What each was called</h2>
        <WideTable class="mt-2" :stack="false"
          ><table class="mt-2 border-separate border-spacing-1">
            <thead>
              <tr>
                <th scope="col" class="pr-4 text-left font-normal text-soft">It was</th>
                <th
                  v-for="thing in data.things"
                  :key="thing.letter"
                  scope="col"
                  class="min-w-28 px-2 font-normal text-soft"
                >
                  called {{ thing.name }}
                </th>
              </tr>
            </thead>
            <tbody>
              <tr v-for="(row, i) in finding.named.table" :key="i">
                <th scope="row" class="pr-4 text-left">{{ data.things[i]?.name }}</th>
                <td
                  v-for="(many, j) in row"
                  :key="j"
                  class="h-14 text-center text-[1.2rem]"
                  :class="{ 'font-bold': i === j, 'outline-3 -outline-offset-3 outline-ink': i === j }"
                  :style="{ background: shade(many) }"
                >
                  {{ many }}
                </td>
              </tr>
            </tbody>
          </table></WideTable
        >
        <p class="mt-2 text-soft">
          Of {{ finding.n }} people; framed: the right name. p = {{ p(finding.named.p) }},
          {{
            data.plan.each_once
              ? "with each name used once, so that names hang together"
              : "with names chosen freely"
          }}.
        </p>
      </section>
      <section v-if="finding.ranked">
        <h2>Mean rank</h2>
        <WideTable class="mt-1"
          ><table class="figures">
            <tbody>
              <tr v-for="(mean, i) in finding.ranked.means" :key="i">
                <th scope="row">{{ data.things[i]?.name }}</th>
                <td class="number">{{ honest(mean, 3) }}</td>
              </tr>
            </tbody>
          </table></WideTable
        >
        <p class="mt-1 text-soft">
          Friedman, p = {{ p(finding.ranked.p) }}; W = {{ honest(finding.ranked.agreement, 2) }}.
        </p>
        <WideTable class="mt-2"
          ><table class="figures">
            <thead>
              <tr>
                <th scope="col">Before</th>
                <th class="number" scope="col">more people</th>
                <th class="number" scope="col">p, adjusted</th>
              </tr>
            </thead>
            <tbody>
              <tr v-for="pair in finding.ranked.pairs" :key="`${pair.a}${pair.b}`">
                <th scope="row">
                  {{
                    pair.ahead >= 0
                      ? `${data.things[pair.a]?.name} before ${data.things[pair.b]?.name}`
                      : `${data.things[pair.b]?.name} before ${data.things[pair.a]?.name}`
                  }}
                </th>
                <td class="number">{{ Math.abs(pair.ahead) }}</td>
                <td class="number">{{ p(pair.p_adjusted) }}</td>
              </tr>
            </tbody>
          </table></WideTable
        >
      </section>
      <section v-if="finding.people.length">
        <h2>One by one</h2>
        <ul class="mt-1 columns-2 gap-6">
          <li
            v-for="one in finding.people"
            :key="one.name"
            class="flex break-inside-avoid items-center justify-between gap-2 border-b border-line py-1"
          >
            <span>{{ one.name }}</span><TallyStrokes
              :solid="one.right"
              :rest="one.n - one.right"
              :label="`${one.right} of ${one.n} right`"
            />
          </li>
        </ul>
      </section>
      <section v-if="Object.keys(finding.words).length">
        <h2>Words</h2>
        <dl class="mt-1 grid gap-1">
          <div v-for="(own, side) in finding.words" :key="side">
            <dt class="font-bold">{{ nameOf(side) }}</dt>
            <dd>
              {{
                Object.entries(own)
                  .map(([word, many]) => `${word} ${many}`)
                  .join(", ")
              }}
            </dd>
          </div>
        </dl>
        <template v-if="Object.keys(finding.words_right).length">
          <h3 class="mt-3 font-bold">Of those who were right alone</h3>
          <dl class="mt-1 grid gap-1">
            <div v-for="(own, side) in finding.words_right" :key="side">
              <dt class="font-bold">{{ nameOf(side) }}</dt>
              <dd>
                {{
                  Object.entries(own)
                    .map(([word, many]) => `${word} ${many}`)
                    .join(", ")
                }}
              </dd>
            </div>
          </dl>
        </template>
        <details v-if="finding.comments.length" class="mt-2">
          <summary class="min-h-11 cursor-pointer">All {{ finding.comments.length }} comments</summary>
          <ul class="grid gap-1">
            <li v-for="(one, i) in finding.comments" :key="i">
              <span v-if="one[0]" class="text-soft">{{ nameOf(one[0]) }}: </span>{{ one[1] }}
            </li>
          </ul>
        </details>
      </section>
    </div>
    <section
      v-if="data.with_all || finding.settle || finding.closest"
      class="mt-8 max-w-4xl border-t-2 border-ink pt-3"
      aria-label="What else there is to know"
    >
      <p v-if="data.with_all" class="mt-2">
        Without {{ finding.left_out.map((one) => `${one[0]} (${one[1]})`).join(", ") }}. With everybody
        counted:
        {{ data.with_all.sentence }}
      </p>
      <p v-if="finding.closest" class="mt-2">{{ finding.closest }}</p>
      <p v-if="finding.settle" class="mt-2">
        A fresh panel of about
        {{
          each > 1
            ? `${Math.ceil(finding.settle / each)} people, ${each} sets each,`
            : `${finding.settle} people`
        }}
        would probably settle it, if as many notice as it looked here.
      </p>
    </section>
  </article>
</template>
