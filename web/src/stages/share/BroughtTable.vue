<script setup lang="ts">
import { sure } from "@/parts/sure";
/** A table that is being brought in: what would come of it, and what its columns seem to mean, drawn. */
import { useQueryClient } from "@tanstack/vue-query";
import { computed, onMounted, ref, useId } from "vue";
import { useRouter } from "vue-router";

import ColumnsPicture from "./ColumnsPicture.vue";
import { scaleWords, unitOf } from "@/parts/amounts";
import { fieldOf } from "@/parts/localMoment";
import { numberIn } from "@/parts/typed";
import ProblemText from "@/parts/ProblemText.vue";
import { answer, api, type Schemas } from "@/shell/api/client";
import { problemsOf } from "@/shell/api/problems";
import { keys } from "@/shell/queryKeys";
import { rightNow } from "@/shell/offline/clock";

type Meant = Schemas["ImportedTableOut"]["meaning"]["columns"][number];
const props = defineProps<{ id: string }>();
const emit = defineEmits<{ in: [] }>();
const queryClient = useQueryClient();
const router = useRouter();
const path = { params: { path: { import_id: props.id } } };
const table = ref<Schemas["ImportedTableOut"]>();
const failed = ref("");
const busy = ref(false);
const began = useId();
const margins = useId();
const today = fieldOf(rightNow()).slice(0, 10);
const KINDS: { value: Meant["kind"]; name: string }[] = [
  { value: "measurement", name: "measured" },
  { value: "count", name: "counted" },
  { value: "grade", name: "graded" },
  { value: "passfail", name: "yes or no" },
  { value: "percent", name: "in percent" },
  { value: "words", name: "graded in words" },
  { value: "shade", name: "a shade by its name" },
  { value: "ladder", name: "highest step held" },
  { value: "event", name: "the day it was seen" },
  { value: "curve", name: "a step of a curve" },
];
async function through(ask: () => Promise<Schemas["ImportedTableOut"]>): Promise<void> {
  busy.value = true;
  failed.value = "";
  try {
    table.value = await ask();
  } catch (error) {
    failed.value = sure(problemsOf(error)[0]).says;
  } finally {
    busy.value = false;
  }
}
onMounted(() => through(() => answer(api.GET("/api/imports/{import_id}/table", path))));
type Sent = {
  choices?: Schemas["ImportedTableOut"]["choices"];
  title?: string;
  sheet?: string;
  meaning?: Schemas["ImportedTableOut"]["meaning"];
};
const send = (said: Sent = {}) => {
  const { meaning, choices, title, sheet } = sure(table.value);
  const zone = Intl.DateTimeFormat().resolvedOptions().timeZone;
  return through(() =>
    answer(
      api.PUT("/api/imports/{import_id}/table", {
        ...path,
        body: { meaning, choices, title, sheet, zone, ...said },
      }),
    ),
  );
};
function mean(i: number, changed: Partial<Meant>): void {
  const columns = sure(table.value).meaning.columns.map((one, k) => {
    if (k !== i) return one;
    const now = { ...one, ...changed };
    return changed.part === "value" && !now.outcome ? { ...now, outcome: one.name } : now;
  });
  // Whoever says what columns are has answered what could not be told.
  void send({ meaning: { ...sure(table.value).meaning, columns, unsure: [] } });
}
/** What is compared was asked: the column that was taken for it becomes what the other one was. */
function compared(name: string): void {
  const { meaning } = sure(table.value);
  const was = meaning.columns.find((one) => one.name === name)?.part ?? "nothing";
  const columns = meaning.columns.map((one) =>
    one.name === name
      ? { ...one, part: "treatment" as const }
      : one.part === "treatment"
        ? { ...one, part: was }
        : one,
  );
  void send({ meaning: { ...meaning, columns, unsure: [], control: "" } });
}
/** What is compared was asked, and it is each together with the other: both are factors. */
function together(): void {
  const { meaning } = sure(table.value);
  const columns = meaning.columns.map((one) =>
    meaning.unsure.includes(one.name) ? { ...one, part: "treatment" as const } : one,
  );
  void send({ meaning: { ...meaning, columns, unsure: [], control: "" } });
}
/** A draft of the rest; what was read comes in once that is sealed. */
async function goOn(): Promise<void> {
  busy.value = true;
  failed.value = "";
  try {
    const { trial } = await answer(api.POST("/api/imports/{import_id}/on", path));
    await queryClient.invalidateQueries({ queryKey: keys.bringings() });
    await queryClient.invalidateQueries({ queryKey: keys.shelf() });
    await router.push({ name: "plan", params: { id: sure(trial), part: "begun" } });
  } catch (error) {
    failed.value = sure(problemsOf(error)[0]).says;
  } finally {
    busy.value = false;
  }
}
const choose = (changed: Partial<Schemas["ImportedTableOut"]["choices"]>) =>
  void send({ choices: { ...sure(table.value).choices, ...changed } });
/** The smallest difference that matters, as typed; empty: nobody says. */
const unread = ref("");
function matters(name: string, typed: string): void {
  const { margins } = sure(table.value).choices;
  const others = Object.fromEntries(Object.entries(margins).filter(([key]) => key !== name));
  const said = typed.trim() ? numberIn(typed) : undefined;
  unread.value = typeof said === "string" ? said : said !== undefined && said <= 0 ? "Above 0, please." : "";
  if (unread.value) return;
  choose({ margins: typeof said === "number" ? { ...others, [name]: said } : others });
}
const asks = (at: string) => table.value?.problems.some((one) => one.at === at) ?? false;
const inTheWay = computed(() => table.value?.problems ?? []);
/** The column that was tapped, and what else may be said of it where it holds values. */
const picked = ref<number | null>(null);
const value = computed(() => {
  const one = picked.value === null ? undefined : table.value?.meaning.columns[picked.value];
  return one?.part === "value" ? one : undefined;
});
const fields = computed(() => {
  const asked: { key: "outcome" | "checkpoint" | "unit" | "order"; name: string; like: string }[] = [];
  if (!has("outcome")) asked.push({ key: "outcome", name: "What it measures", like: "Height" });
  if (!has("outcome") && !has("checkpoint"))
    asked.push({ key: "checkpoint", name: "When it was read", like: "Day 4" });
  if (value.value?.kind === "measurement") asked.push({ key: "unit", name: "Unit", like: "cm" });
  if (value.value?.kind === "words")
    asked.push({ key: "order", name: "The words from the least to the most", like: "poor, fair, good" });
  if (value.value?.kind === "shade")
    asked.push({ key: "order", name: "The shades from one end to the other", like: "cream, gold, brown" });
  return asked;
});
const has = (part: Meant["part"]) => table.value?.meaning.columns.some((one) => one.part === part);
</script>

<template>
  <p v-if="failed" class="mt-3 font-bold" role="alert">{{ failed }}</p>
  <div v-if="table" :aria-busy="busy">
    <div class="mt-4 grid gap-4 sm:grid-cols-2">
      <label class="block"
        ><span class="mb-1 block text-[0.9rem] text-soft">Call the trial</span
        ><input
          class="field"
          maxlength="200"
          :value="table.title"
          @change="send({ title: ($event.target as HTMLInputElement).value })"
      /></label>
      <label v-if="table.sheets.length > 1" class="block"
        ><span class="mb-1 block text-[0.9rem] text-soft">Sheet of the workbook</span
        ><select
          class="field"
          :value="table.sheet"
          @change="send({ sheet: ($event.target as HTMLSelectElement).value })"
        >
          <option v-for="one in table.sheets" :key="one" :value="one">{{ one }}</option>
        </select></label
      >
    </div>
    <div class="mt-4 max-w-72">
      <label class="block"
        ><span class="mb-1 block text-[0.9rem] text-soft">It began on (empty: not known)</span
        ><input
          type="date"
          class="field"
          :max="today"
          :value="table.choices.start"
          :aria-invalid="asks('start') ? 'true' : undefined"
          :aria-describedby="began"
          @change="choose({ start: ($event.target as HTMLInputElement).value })"
      /></label>
      <ProblemText :id="began" :says="table.problems.find((one) => one.at === 'start')?.says" />
    </div>
    <section class="judged mt-5" aria-label="What comes of it" aria-live="polite">
      <template v-if="inTheWay.length">
        <h2>Before it can come in</h2>
        <ul class="mt-1 grid gap-1">
          <li v-for="one in inTheWay" :key="one.at + one.says">
            <b v-if="one.at.startsWith('row')">{{ one.at }}: </b>{{ one.says }}
          </li>
        </ul>
        <p v-if="asks('doubled')" class="mt-3 flex flex-wrap gap-3">
          <button class="press press-small" @click="choose({ doubled: 'leave out' })">
            Copies: leave them out</button
          ><button class="press press-small" @click="choose({ doubled: 'keep' })">
            Samples alike: keep them
          </button>
        </p>
        <p v-if="asks('compared')" class="mt-3 flex flex-wrap gap-3">
          <button
            v-for="one in table.meaning.unsure"
            :key="one"
            class="press press-small"
            @click="compared(one)"
          >
            {{ one }} is compared
          </button>
          <button v-if="table.meaning.unsure.length === 2" class="press press-small" @click="together">
            Both together, as factors
          </button>
        </p>
        <p v-if="asks('words')" class="mt-3">
          <button class="press press-small" @click="choose({ words: 'leave out' })">
            Yes: no value there, for that reason
          </button>
        </p>
        <p v-if="asks('dates') && inTheWay[0]!.says.endsWith('?')" class="mt-3 flex flex-wrap gap-3">
          <button class="press press-small" @click="choose({ dates: 'day first' })">With the day</button
          ><button class="press press-small" @click="choose({ dates: 'month first' })">With the month</button>
        </p>
      </template>
      <template v-else>
        <h2>What comes of it</h2>
        <p class="mt-1 text-[1.25rem] leading-tight font-bold">
          {{ table.treatments.length }} treatments on {{ table.samples }} samples{{
            table.blocks.length ? ` in ${table.blocks.length} blocks` : ""
          }}, {{ table.readings.toLocaleString("en") }} readings.
        </p>
        <p class="mt-1">
          {{ table.treatments.slice(0, 8).join(", ") }}{{ table.treatments.length > 8 ? " …" : "" }}
        </p>
        <ul class="mt-2 grid gap-2">
          <li
            v-for="one in table.outcomes"
            :key="one.name"
            class="flex flex-wrap items-center gap-x-4 gap-y-1"
          >
            <b>{{ one.name }}</b><span
              >{{ scaleWords(one.scale) }}{{ one.looks > 1 ? `, at ${one.looks} looks` : "" }}</span
            >
            <label class="flex items-center gap-2"
              >better is
              <select
                class="field !w-auto"
                :value="one.better"
                :aria-label="`What is better in ${one.name}`"
                @change="
                  choose({
                    better: {
                      ...table.choices.better,
                      [one.name]: ($event.target as HTMLSelectElement).value as 'more',
                    },
                  })
                "
              >
                <option value="more">more</option>
                <option value="less">less</option>
                <option value="none">neither</option>
              </select></label
            >
            <label v-if="one.better !== 'none'" class="flex items-center gap-2"
              >matters from
              <input
                class="field !w-24"
                inputmode="decimal"
                :value="table.choices.margins[one.name] ?? ''"
                :aria-label="`Smallest difference that matters in ${one.name}`"
                :aria-invalid="unread ? 'true' : undefined"
                :aria-describedby="margins"
                @change="matters(one.name, ($event.target as HTMLInputElement).value)"
              />
              {{ unitOf(one.scale) }}</label
            >
          </li>
        </ul>
        <ProblemText :id="margins" :says="unread" />
        <label class="mt-3 flex flex-wrap items-center gap-2"
          >The control is
          <select
            class="field !w-auto"
            :value="table.meaning.control"
            @change="
              send({ meaning: { ...table.meaning, control: ($event.target as HTMLSelectElement).value } })
            "
          >
            <option value="">none of them</option>
            <option v-for="one in table.treatments" :key="one" :value="one">{{ one }}</option>
          </select></label
        >
      </template>
      <ul v-if="table.warnings.length" class="mt-3 grid list-disc gap-1 pl-5">
        <li v-for="one in table.warnings" :key="one">{{ one }}</li>
      </ul>
      <p class="mt-4 flex flex-wrap gap-3">
        <button class="press press-main" :disabled="busy || inTheWay.length > 0" @click="emit('in')">
          Bring it in and read the verdict</button
        ><button class="press" :disabled="busy || inTheWay.length > 0" @click="goOn">
          It still goes on: plan the rest
        </button>
      </p>
    </section>
    <h2 class="mt-6">What the columns mean</h2>
    <p class="mb-3 text-soft">
      Drag a column to where it belongs, or tap it and then its place.
      {{ has("treatment") ? "" : "Say first which column names what is compared." }}
    </p>
    <ColumnsPicture
      v-model:picked="picked"
      :columns="table.meaning.columns"
      :rows="table.rows"
      @put="(i, part) => mean(i, { part })"
    />
    <section v-if="value" class="mt-4 border-l-4 border-ink pl-4" :aria-label="`How ${value.name} is read`">
      <h3>{{ value.name }}</h3>
      <div class="mt-2 grid gap-3 sm:grid-cols-2 lg:grid-cols-4">
        <label class="block"
          ><span class="mb-1 block text-[0.9rem] text-soft">How it was taken</span
          ><select
            class="field"
            :value="value.kind"
            :aria-label="`How ${value.name} was taken`"
            @change="mean(picked!, { kind: ($event.target as HTMLSelectElement).value as Meant['kind'] })"
          >
            <option v-for="kind in KINDS" :key="kind.value" :value="kind.value">{{ kind.name }}</option>
          </select></label
        >
        <label v-for="field in fields" :key="field.key" class="block"
          ><span class="mb-1 block text-[0.9rem] text-soft">{{ field.name }}</span
          ><input
            class="field"
            :value="value[field.key]"
            :aria-label="`${field.name} of ${value.name}`"
            :placeholder="field.like"
            @change="mean(picked!, { [field.key]: ($event.target as HTMLInputElement).value })"
        /></label>
      </div>
    </section>
    <h2 class="mt-6">The table</h2>
    <p class="text-soft">
      {{ table.row_count.toLocaleString("en") }} rows; the first {{ table.rows.length }} are shown.
    </p>
    <div class="mt-2 overflow-x-auto" tabindex="0" role="region" aria-label="The table">
      <table class="brought">
        <thead>
          <tr>
            <th
              v-for="one in table.meaning.columns"
              :key="one.name"
              scope="col"
              :class="{ out: one.part === 'nothing' }"
            >
              {{ one.name }}
            </th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="(row, r) in table.rows" :key="r">
            <td
              v-for="(cell, i) in row"
              :key="i"
              :class="{ out: table.meaning.columns[i]!.part === 'nothing' }"
            >
              {{ cell || "–" }}
            </td>
          </tr>
        </tbody>
      </table>
    </div>
  </div>
</template>

<style scoped>
.judged {
  border: 2px solid var(--ink);
  padding: 1rem 1.2rem;
  max-width: 52rem;
}
.brought {
  border-collapse: collapse;
  /* Words stay whole: the table is as wide as it needs, and is moved under the finger. */
  overflow-wrap: normal;
}
.brought th {
  padding: 0 0.6rem 0.4rem;
  font-weight: 700;
  text-align: left;
}
.brought td {
  padding: 0.3rem 0.6rem;
  border-top: 1px solid var(--line);
}
.out {
  color: var(--soft);
}
td.out {
  text-decoration: line-through;
}
</style>
