<script setup lang="ts">
import { sure } from "@/parts/sure";
/** A table that is being brought in: what its columns seem to mean, to be put right above them, and what
 * would
 * come of it.
 */
import { computed, onMounted, ref } from "vue";

import { scaleWords } from "@/parts/amounts";
import { answer, api, type Schemas } from "@/shell/api/client";
import { problemsOf } from "@/shell/api/problems";

type Meant = Schemas["ImportedTableOut"]["meaning"]["columns"][number];
const props = defineProps<{ id: string }>();
const emit = defineEmits<{ in: [] }>();
const path = { params: { path: { import_id: props.id } } };
const table = ref<Schemas["ImportedTableOut"]>();
const failed = ref("");
const busy = ref(false);
const PARTS: { value: Meant["part"]; name: string }[] = [
  { value: "treatment", name: "what is compared" },
  { value: "block", name: "block or place" },
  { value: "sample", name: "sample name" },
  { value: "checkpoint", name: "when it was looked at" },
  { value: "outcome", name: "names what was measured" },
  { value: "value", name: "a measured value" },
  { value: "scorer", name: "who scored" },
  { value: "nothing", name: "leave out" },
];
const KINDS: { value: Meant["kind"]; name: string }[] = [
  { value: "measurement", name: "measured" },
  { value: "count", name: "counted" },
  { value: "grade", name: "graded" },
  { value: "passfail", name: "yes or no" },
  { value: "percent", name: "in percent" },
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
  void send({ meaning: { ...sure(table.value).meaning, columns } });
}
const choose = (changed: Partial<Schemas["ImportedTableOut"]["choices"]>) =>
  void send({ choices: { ...sure(table.value).choices, ...changed } });
const asks = (at: string) => table.value?.problems.some((one) => one.at === at) ?? false;
const inTheWay = computed(() => table.value?.problems ?? []);
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
          </li>
        </ul>
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
      <button class="press press-main mt-4" :disabled="busy || inTheWay.length > 0" @click="emit('in')">
        Bring it in and read the verdict
      </button>
    </section>
    <h2 class="mt-6">What the columns mean</h2>
    <p class="text-soft">
      {{ table.row_count.toLocaleString("en") }} rows; the first {{ table.rows.length }} are shown.
      {{ has("treatment") ? "" : "Say first which column names what is compared." }}
    </p>
    <div class="mt-2 overflow-x-auto" tabindex="0" role="region" aria-label="The table">
      <table class="brought">
        <thead>
          <tr>
            <th
              v-for="(one, i) in table.meaning.columns"
              :key="one.name"
              scope="col"
              :class="{ out: one.part === 'nothing' }"
            >
              <span class="block px-2 pt-1 text-left">{{ one.name }}</span>
              <select
                class="field mt-1"
                :value="one.part"
                :aria-label="`What ${one.name} is`"
                @change="mean(i, { part: ($event.target as HTMLSelectElement).value as Meant['part'] })"
              >
                <option v-for="part in PARTS" :key="part.value" :value="part.value">{{ part.name }}</option>
              </select>
              <template v-if="one.part === 'value'">
                <select
                  class="field mt-1"
                  :value="one.kind"
                  :aria-label="`How ${one.name} was taken`"
                  @change="mean(i, { kind: ($event.target as HTMLSelectElement).value as Meant['kind'] })"
                >
                  <option v-for="kind in KINDS" :key="kind.value" :value="kind.value">{{ kind.name }}</option>
                </select>
                <template v-if="!has('outcome')"
                  ><input
                    class="field mt-1"
                    :value="one.outcome"
                    :aria-label="`What ${one.name} measures`"
                    placeholder="what it measures"
                    @change="mean(i, { outcome: ($event.target as HTMLInputElement).value })" />
                  <input
                    v-if="!has('checkpoint')"
                    class="field mt-1"
                    :value="one.checkpoint"
                    :aria-label="`When ${one.name} was read`"
                    placeholder="when (Day 4)"
                    @change="mean(i, { checkpoint: ($event.target as HTMLInputElement).value })"
                /></template>
                <input
                  v-if="one.kind === 'measurement'"
                  class="field mt-1"
                  :value="one.unit"
                  :aria-label="`Unit of ${one.name}`"
                  placeholder="unit"
                  @change="mean(i, { unit: ($event.target as HTMLInputElement).value })"
                />
              </template>
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
}
.brought th {
  vertical-align: top;
  min-width: 12.4rem;
  padding: 0 0.4rem 0.6rem 0;
  font-weight: 700;
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
