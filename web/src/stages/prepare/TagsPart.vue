<script setup lang="ts">
import { keys } from "@/shell/queryKeys";
/** Paper: tags on a label sheet of any size, the sheet for whoever prepares, the key for an envelope, sheets
 * to score on.
 */
import { useQuery } from "@tanstack/vue-query";
import { computed, ref, watch } from "vue";

import LabelSheetPicture from "./LabelSheetPicture.vue";
import { boardsOf } from "@/parts/boards";
import NumberField from "@/parts/NumberField.vue";
import ProblemText from "@/parts/ProblemText.vue";
import { answer, api, type Schemas } from "@/shell/api/client";
import { useAct } from "@/shell/act";
import { savePaper } from "@/shell/paper";
import { useBoard } from "@/shell/query";

const props = defineProps<{ id: string; course: Schemas["CourseOut"] }>();
const { data } = useQuery({
  queryKey: keys.labelSheets(),
  queryFn: () => answer(api.GET("/api/label-sheets")),
  staleTime: Infinity,
});
const sheets = computed(() => data.value?.sheets ?? []);
const chosen = ref("a4-tags");
const sheet = computed(() => sheets.value.find((one) => one.key === chosen.value));
const skip = ref<number | null>(0);
const copies = ref<number | null>(1);
const paper = ref<"a4" | "letter">("a4");
watch(sheet, (now) => now && (paper.value = now.paper));
const look = ref(
  props.course.checkpoints.find((stop) => stop.standing === "due")?.key ??
    props.course.checkpoints[0]?.key ??
    "",
);
const { busy, other, through } = useAct([]);
const save = (path: string) => through(() => savePaper(`/api/trials/${props.id}/prints/${path}`));
const wrong = computed(() => {
  if (!sheet.value) return "";
  if ((skip.value ?? 0) < 0 || (skip.value ?? 0) >= sheet.value.count)
    return `A sheet holds ${sheet.value.count} labels; skip fewer than that.`;
  return (copies.value ?? 1) < 1 || (copies.value ?? 1) > 5 ? "Between 1 and 5 tags for each." : "";
});
const address = computed(
  () =>
    `/api/trials/${props.id}/prints/labels.pdf?sheet=${chosen.value}&skip=${skip.value ?? 0}&copies=${copies.value ?? 1}`,
);
const { data: board } = useBoard(() => props.id);
const boards = computed(() => (board.value?.tags.length ? boardsOf(board.value.tags, props.course) : []));
const starts = computed(() => props.course.checkpoints.filter((one) => one.standing !== "skipped"));
</script>

<template>
  <div class="grid gap-x-10 gap-y-8 xl:grid-cols-2">
    <section aria-labelledby="tags-title">
      <h2 id="tags-title" class="border-b-2 border-ink pb-1">Tags to tie or stick on</h2>
      <p class="mt-2">
        A tag holds the code, a letter that catches a slip when it is typed, where the
        {{ course.sample_word }} stands, and a square for the phone’s camera. No tag tells what it gets.
      </p>
      <label class="mt-3 block"
        ><span class="mb-1 block text-[0.9rem] text-soft">Labels on</span>
        <select v-model="chosen" class="field">
          <option v-for="one in sheets" :key="one.key" :value="one.key">{{ one.name }}</option>
        </select>
      </label>
      <div class="mt-3 grid gap-5 sm:grid-cols-[minmax(0,1fr)_auto]">
        <div class="grid content-start gap-3">
          <div class="grid grid-cols-2 items-end gap-3">
            <NumberField v-model="copies" label="Tags for each" whole needed />
            <NumberField v-model="skip" label="Labels used already" whole needed />
          </div>
          <ProblemText :says="wrong" />
          <p class="flex flex-wrap gap-2">
            <a v-if="!wrong" class="press press-main" :href="address" download>Print the tags</a>
            <a v-if="course.covered && !wrong" class="press" :href="`${address}&flasks=true`" download
              >Tags for the flasks</a
            >
          </p>
        </div>
        <LabelSheetPicture
          v-if="sheet"
          :sheet="sheet"
          :skip="skip ?? 0"
          :tags="course.samples * (copies ?? 1)"
        />
      </div>
    </section>
    <section aria-labelledby="sheets-title">
      <h2 id="sheets-title" class="border-b-2 border-ink pb-1">Sheets</h2>
      <label class="mt-3 block max-w-48"
        ><span class="mb-1 block text-[0.9rem] text-soft">Paper</span
        ><select v-model="paper" class="field">
          <option value="a4">A4</option>
          <option value="letter">Letter</option>
        </select></label
      >
      <ul>
        <li class="flex flex-wrap items-center justify-between gap-3 py-3">
          <span class="min-w-0 grow basis-60"
            ><b>Mix sheet.</b> Steps, cautions, shopping and costs, to take to the bench.</span
          >
          <a class="press press-small" :href="`/api/trials/${id}/prints/mix.pdf?paper=${paper}`" download
            >Print</a
          >
        </li>
        <li class="rule flex flex-wrap items-center justify-between gap-3 py-3">
          <span class="min-w-0 grow basis-60"
            ><b>Preparer’s sheet.</b> Code by code what it gets.<template
              v-if="!course.covered && !course.opened_at"
            >
              Printing it is a look at the key, and recorded.</template
            ></span
          >
          <button
            type="button"
            class="press press-small"
            aria-label="Print the preparer’s sheet"
            :disabled="busy"
            @click="save(`handout.pdf?paper=${paper}`)"
          >
            Print
          </button>
        </li>
        <li class="rule flex flex-wrap items-center justify-between gap-3 py-3">
          <span class="min-w-0 grow basis-60"
            ><b>Key for an envelope.</b> Folds shut; to be kept where no scorer looks.<template
              v-if="!course.covered && !course.opened_at"
            >
              A look at the key as well.</template
            ></span
          >
          <button
            type="button"
            class="press press-small"
            aria-label="Print the key for an envelope"
            :disabled="busy"
            @click="save(`key.pdf?paper=${paper}`)"
          >
            Print
          </button>
        </li>
        <li
          v-if="course.may_score && starts.length"
          class="rule flex flex-wrap items-center justify-between gap-3 py-3"
        >
          <span class="min-w-0 grow basis-60"
            ><b>Scoring sheet.</b> For people without a phone, in an order of its own; typed in later and
            marked so.</span
          >
          <label
            ><span class="sr-only">Look</span
            ><select v-model="look" class="field">
              <option v-for="one in starts" :key="one.key" :value="one.key">{{ one.name }}</option>
            </select></label
          >
          <button
            type="button"
            class="press press-small"
            aria-label="Print the scoring sheet"
            :disabled="busy"
            @click="save(`scoring.pdf?checkpoint=${look}&paper=${paper}`)"
          >
            Print
          </button>
        </li>
      </ul>
      <ProblemText :says="other" />
    </section>
    <section v-if="boards.length" class="xl:col-span-2" aria-labelledby="pen-title">
      <h2 id="pen-title" class="border-b-2 border-ink pb-1">By hand, with a marker</h2>
      <p class="mt-2">
        Write code and letter on anything that lasts: they are what is typed to find the
        {{ course.sample_word }}.
      </p>
      <div class="mt-2 grid gap-x-10 gap-y-3 xl:grid-cols-2">
        <div v-for="one in boards" :key="one.key">
          <h3 v-if="one.name">{{ one.name }}</h3>
          <ul class="grid grid-cols-3 gap-x-4 sm:grid-cols-6">
            <li v-for="tag in one.tags" :key="tag.code" class="code rule py-1">
              {{ tag.code }} {{ tag.check }}
            </li>
          </ul>
        </div>
      </div>
    </section>
  </div>
</template>
