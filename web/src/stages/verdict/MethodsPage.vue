<script setup lang="ts">
import { sure } from "@/parts/sure";
/** Methods compared: instruments or kits against each other on the same samples, from a table that is pasted
 * or dropped in.
 */
import { computed, ref } from "vue";

import AgreeChart from "@/charts/AgreeChart.vue";
import ProblemText from "@/parts/ProblemText.vue";
import { honest } from "@/parts/amounts";
import { answer, api, type Schemas } from "@/shell/api/client";
import { useAct } from "@/shell/act";
import WideTable from "@/parts/WideTable.vue";

type Meaning = Schemas["MethodColumn"]["meaning"];
const EXAMPLE =
  "sample\tstrip\tmeter\ttruth\tother\nwell 1\t0\t0.3\tblank\t\nwell 2\t10\t9.4\t10\t\nwell 3\t25\t19.6\t20\t\nwell 4\t10\t11.2\t\t\nwell 5\t50\t41\t40\t\nwell 6\t25\t23.8\t\t\nwell 7\t25\t0.4\tblank\tx\nwell 8\t0\t4.6\t5\t\n";
const MEANINGS: { value: Meaning; name: string }[] = [
  { value: "method", name: "a method" },
  { value: "truth", name: "what is really there" },
  { value: "other", name: "marks the wrong substance" },
  { value: "nothing", name: "nothing" },
];
const text = ref("");
const unit = ref("");
const limit = ref("");
const alarm = ref("");
const told = ref<Schemas["SideBySideOut"] | null>(null);
const chosen = ref(0);
const { busy, says, other, through } = useAct(["text", "limit", "alarm"]);
const number = (written: string) => (written.trim() === "" ? null : Number(written.replace(",", ".")));
const wrong = computed(() => [limit.value, alarm.value].some((one) => Number.isNaN(number(one) ?? 0)));
const compare = (meaning: Record<string, Meaning> | null) =>
  through(async () => {
    told.value = await answer(
      api.POST("/api/methods", {
        body: {
          text: text.value,
          meaning,
          unit: unit.value,
          limit: number(limit.value),
          alarm: number(alarm.value),
        },
      }),
    );
    chosen.value = Math.min(chosen.value, told.value.found.pairs.length - 1);
  });
function mean(name: string, meaning: Meaning): void {
  const all = Object.fromEntries(sure(told.value).columns.map((one) => [one.name, one.meaning]));
  void compare({ ...all, [name]: meaning });
}
async function take(event: Event): Promise<void> {
  const file = (event.target as HTMLInputElement).files?.[0];
  if (file) text.value = await file.text();
}
const pair = computed(() => told.value?.found.pairs[chosen.value]);
const share = (one: Schemas["OfMany"] | null) => (one ? `${one.many} of ${one.of}` : "–");
const between = (one: Schemas["OfMany"] | null) =>
  one ? `${Math.round(100 * one.low)} to ${Math.round(100 * one.high)} in 100` : "";
const withUnit = (value: number) => `${honest(value, 3)} ${told.value?.found.unit ?? ""}`.trim();
</script>

<template>
  <div class="mx-auto max-w-6xl p-4 lg:px-8 lg:py-6">
    <main class="sheet mt-4 p-4 lg:p-8">
      <h1>Methods compared</h1>
      <p class="mt-1 max-w-3xl">
        Two meters, a strip and a kit, two thermometers: put them on the same samples, a row a sample, a
        column a method. A column called <b>truth</b> holds what is really there (<b>blank</b> for none), one
        called <b>other</b> marks blanks that hold a different substance.
      </p>
      <form
        class="mt-4 grid gap-4 lg:grid-cols-[minmax(0,1.5fr)_minmax(0,1fr)]"
        @submit.prevent="compare(null)"
      >
        <div>
          <label class="block"
            ><span class="mb-1 block text-[0.9rem] text-soft"
              >The table, pasted from a spreadsheet or as CSV</span
            ><textarea
              v-model="text"
              rows="9"
              class="field code font-normal"
              spellcheck="false"
              :placeholder="EXAMPLE"
            />
          </label>
          <ProblemText :says="says('text')" />
          <div class="mt-2 flex flex-wrap items-center gap-3">
            <label class="press press-small"
              >Take a file<input type="file" accept=".csv,.tsv,.txt" class="sr-only" @change="take" /></label
            ><button
              type="button"
              class="quiet"
              @click="
                text = EXAMPLE;
                unit = 'mg/L';
                limit = '25';
              "
            >
              Use the example
            </button>
          </div>
        </div>
        <div class="grid content-start gap-3">
          <label class="block"
            ><span class="mb-1 block text-[0.9rem] text-soft">Unit of all readings</span
            ><input v-model="unit" class="field" maxlength="40" placeholder="mg/L"
          /></label>
          <label class="block"
            ><span class="mb-1 block text-[0.9rem] text-soft"
              >Limit from which a sample fails, if there is one</span
            ><input v-model="limit" class="field" inputmode="decimal"
          /></label>
          <label class="block"
            ><span class="mb-1 block text-[0.9rem] text-soft"
              >Reading that says “there is some”: the limit, or else anything above 0</span
            ><input v-model="alarm" class="field" inputmode="decimal"
          /></label>
          <p v-if="wrong" class="font-bold">Limit and alarm are numbers.</p>
          <button class="press press-main" :disabled="busy || !text.trim() || wrong">Compare</button>
          <ProblemText :says="other" />
        </div>
      </form>
      <section
        v-if="told && pair"
        class="rule mt-6 pt-5"
        aria-label="What the methods show"
        aria-live="polite"
      >
        <details class="mb-4">
          <summary class="quiet inline-flex items-center">What the columns mean</summary>
          <ul class="mt-1 grid max-w-2xl gap-2">
            <li v-for="one in told.columns" :key="one.name" class="flex flex-wrap items-center gap-3">
              <b class="min-w-40">{{ one.name }}</b><select
                class="field max-w-72"
                :aria-label="`What ${one.name} means`"
                :value="one.meaning"
                @change="mean(one.name, ($event.target as HTMLSelectElement).value as Meaning)"
              >
                <option v-for="each in MEANINGS" :key="each.value" :value="each.value">
                  {{ each.name }}
                </option>
              </select>
            </li>
          </ul>
        </details>
        <div
          v-if="told.found.pairs.length > 1"
          class="mb-3 flex flex-wrap gap-2"
          role="group"
          aria-label="Pairs"
        >
          <button
            v-for="(one, i) in told.found.pairs"
            :key="one.a + one.b"
            type="button"
            class="press press-small"
            :class="{ 'press-main': i === chosen }"
            :aria-pressed="i === chosen"
            @click="chosen = i"
          >
            {{ one.a }} and {{ one.b }}
          </button>
        </div>
        <p class="max-w-4xl text-[1.45rem] leading-tight font-bold">{{ pair.says }}</p>
        <div v-if="pair.bias && pair.lower && pair.upper" class="mt-5 grid gap-x-10 gap-y-6 xl:grid-cols-2">
          <AgreeChart :pair="pair" :unit="told.found.unit" />
          <div class="min-w-0 overflow-x-auto" tabindex="0" role="region" aria-label="Figures">
            <WideTable
              ><table class="figures">
                <thead>
                  <tr>
                    <th scope="col">{{ pair.a }} − {{ pair.b }}, {{ pair.n }} samples</th>
                    <th scope="col" class="number">Value</th>
                    <th scope="col" class="number">95 in 100 between</th>
                  </tr>
                </thead>
                <tbody>
                  <tr
                    v-for="one in [
                      { name: 'Bias', found: pair.bias },
                      { name: 'Lower limit', found: pair.lower },
                      { name: 'Upper limit', found: pair.upper },
                    ]"
                    :key="one.name"
                  >
                    <th scope="row">{{ one.name }}</th>
                    <td class="number">{{ withUnit(one.found.value) }}</td>
                    <td class="number">{{ honest(one.found.low, 3) }} and {{ honest(one.found.high, 3) }}</td>
                  </tr>
                  <tr v-if="pair.icc !== null">
                    <th scope="row">Alike (ICC 2,1)</th>
                    <td class="number">{{ honest(pair.icc, 2) }}</td>
                    <td />
                  </tr>
                  <tr v-if="pair.slope_p !== null">
                    <th scope="row">Gap per unit more</th>
                    <td class="number">{{ honest(pair.slope!, 2) }}</td>
                    <td class="number">p {{ honest(pair.slope_p, 2) }}</td>
                  </tr>
                </tbody>
              </table></WideTable
            >
            <template v-if="pair.limit"
              ><h2 class="mt-4">Pass or fail at {{ withUnit(told.found.limit!) }}</h2>
              <p class="mt-1">
                They disagree on {{ share(pair.limit.apart) }} ({{ between(pair.limit.apart) }}):
                {{ pair.limit.only_a }} fail by {{ pair.a }} alone, {{ pair.limit.only_b }} by
                {{ pair.b }} alone (p {{ honest(pair.limit.p, 2) }}).
              </p></template
            >
          </div>
        </div>
        <template v-if="told.found.against_truth.length">
          <h2 class="mt-6">Against what is really there</h2>
          <ul class="mt-1 grid gap-1">
            <li v-for="one in told.found.against_truth" :key="one.method">{{ one.says }}</li>
          </ul>
          <WideTable label="Against the truth" class="mt-2">
            <table class="figures">
              <thead>
                <tr>
                  <th scope="col">Method</th>
                  <th scope="col" class="number">False alarms on blanks</th>
                  <th scope="col" class="number">Misses</th>
                  <th scope="col" class="number">Reacts to the wrong substance</th>
                  <th scope="col" class="number">Off by, mean</th>
                </tr>
              </thead>
              <tbody>
                <tr v-for="one in told.found.against_truth" :key="one.method">
                  <th scope="row">{{ one.method }}</th>
                  <td class="number">{{ share(one.alarms) }}</td>
                  <td class="number">{{ share(one.misses) }}</td>
                  <td class="number">{{ share(one.wrong) }}</td>
                  <td class="number">{{ one.bias ? withUnit(one.bias.value) : "–" }}</td>
                </tr>
              </tbody>
            </table>
          </WideTable>
        </template>
      </section>
    </main>
  </div>
</template>
