<script setup lang="ts">
import { sure } from "@/parts/sure";
/** Methods compared: instruments or kits against each other on the same samples, from a table that is pasted
 * or dropped in.
 */
import { computed, ref } from "vue";

import MethodPairs from "./MethodPairs.vue";
import MethodsKept from "./MethodsKept.vue";
import ProblemText from "@/parts/ProblemText.vue";
import { answer, api, type Schemas } from "@/shell/api/client";
import { useAct } from "@/shell/act";

type Meaning = Schemas["MethodColumn"]["meaning"];
const EXAMPLE =
  "sample\tstrip (mg/L)\tmeter (g/L)\tkit\ttruth\tother\nwell 1\t0\t0.0003\tpass\tblank\t\nwell 2\t10\t0.0094\tpass\t10\t\nwell 3\t25\t0.0196\tfail\t20\t\nwell 4\t10\t0.0112\tpass\t\t\nwell 5\t50\t0.041\tfail\t40\t\nwell 6\t10-25\t0.0238\tfail\t\t\nwell 7\t25\t0.0004\tfail\tblank\tx\nwell 8\t0\t0.0046\tpass\t5\t\n";
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
const { busy, says, other, through } = useAct(["text", "unit", "limit", "alarm"]);
/** What was compared, as it was entered. */
const given = ref<Schemas["SideBySideIn"] | null>(null);
const number = (written: string) => (written.trim() === "" ? null : Number(written.replace(",", ".")));
const wrong = computed(() => [limit.value, alarm.value].some((one) => Number.isNaN(number(one) ?? 0)));
const compare = (meaning: Record<string, Meaning> | null) =>
  through(async () => {
    const body = {
      text: text.value,
      meaning,
      unit: unit.value,
      limit: number(limit.value),
      alarm: number(alarm.value),
    };
    told.value = await answer(api.POST("/api/methods", { body }));
    given.value = body;
  });
function mean(name: string, meaning: Meaning): void {
  const all = Object.fromEntries(sure(told.value).columns.map((one) => [one.name, one.meaning]));
  void compare({ ...all, [name]: meaning });
}
const written = (value: number | null | undefined) =>
  value === null || value === undefined ? "" : String(value);
function opened(kept: Schemas["MethodsKeepIn"]): void {
  [text.value, unit.value] = [kept.text, kept.unit];
  [limit.value, alarm.value] = [written(kept.limit), written(kept.alarm)];
  void compare(kept.meaning ?? null);
}
async function take(event: Event): Promise<void> {
  const file = (event.target as HTMLInputElement).files?.[0];
  if (file) text.value = await file.text();
}
</script>

<template>
  <div class="mx-auto max-w-6xl p-4 lg:px-8 lg:py-6">
    <main class="sheet mt-4 p-4 lg:p-8">
      <h1>Methods compared</h1>
      <p class="mt-1 max-w-3xl">
        Two meters, a strip and a kit, two thermometers: put them on the same samples, a row a sample, a
        column a method. Each may have its own unit, in brackets behind its name, and its own scale: numbers,
        a colour chart (<b>25</b>, or <b>10-25</b> between two fields), or <b>pass</b> and <b>fail</b>. A
        column called <b>truth</b> holds what is really there (<b>blank</b> for none), one called
        <b>other</b> marks blanks that hold a different substance.
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
                limit = '20';
              "
            >
              Use the example
            </button>
          </div>
        </div>
        <div class="grid content-start gap-3">
          <label class="block"
            ><span class="mb-1 block text-[0.9rem] text-soft"
              >Unit to compare in; limit and truth are in it, too</span
            ><input
              v-model="unit"
              class="field"
              maxlength="40"
              placeholder="mg/L"
              :aria-invalid="says('unit') ? true : undefined"
              aria-describedby="unit-says"
          /></label>
          <ProblemText id="unit-says" :says="says('unit')" />
          <label class="block"
            ><span class="mb-1 block text-[0.9rem] text-soft"
              >Limit from which a sample fails, if there is one</span
            ><input
              v-model="limit"
              class="field"
              inputmode="decimal"
              :aria-invalid="says('limit') ? true : undefined"
              aria-describedby="limit-says"
          /></label>
          <ProblemText id="limit-says" :says="says('limit')" />
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
      <section v-if="told" class="rule mt-6 pt-5" aria-label="What the methods show" aria-live="polite">
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
        <p v-if="told.between" class="mb-3 max-w-3xl text-soft">
          {{ told.between === 1 ? "One reading lies" : `${told.between} readings lie` }} between two fields of
          a chart and {{ told.between === 1 ? "counts" : "count" }} as the middle of them.
        </p>
        <MethodPairs :found="told.found" />
      </section>
      <MethodsKept :given="given" @opened="opened" />
    </main>
  </div>
</template>
