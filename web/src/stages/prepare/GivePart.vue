<script setup lang="ts">
import { sure } from "@/parts/sure";
/** Who gets what, on the board, and the application log: what each was really given. */
import { computed, ref } from "vue";

import GiveCard from "./GiveCard.vue";
import { useGiving } from "./useGiving";
import ProblemText from "@/parts/ProblemText.vue";
import TallyStrokes from "@/parts/TallyStrokes.vue";
import { problemsOf } from "@/shell/api/problems";
import type { Schemas } from "@/shell/api/client";

const props = defineProps<{ id: string; course: Schemas["CourseOut"]; prepared?: Schemas["PreparedOut"] }>();
const giving = useGiving(props.id);
const { rows, covered, busy, other, reached } = giving;
const given = (row: Schemas["Handed"]) =>
  row.doses.length > 0 && row.doses.every((dose) => dose.given_times > 0);
const boards = computed(() =>
  [...new Set(rows.value?.map((row) => row.block))].map((block) => {
    const own = sure(rows.value).filter((row) => row.block === block);
    const laid = own.every((row) => row.row && row.column);
    return {
      block,
      rows: own,
      columns: laid ? Math.max(...own.map((row) => sure(row.column))) : 0,
      left: own.filter((row) => !given(row)),
    };
  }),
);
const all = computed(() => rows.value?.length ?? 0);
const done = computed(() => rows.value?.filter(given).length ?? 0);
const may = computed(() => ["sealed", "running"].includes(props.course.state));
const says = ref("");
const at = ref("");
/** When it was given, where that was not just now. */
const when = computed(() => (at.value ? new Date(at.value) : null));
async function give(entries: Schemas["EntryIn"][]): Promise<void> {
  says.value = "";
  try {
    await giving.give(entries, when.value);
  } catch (error) {
    says.value = sure(problemsOf(error)[0]).says;
  }
}
const entry = (code: string, dose: string, amount = "", note = "", corrects = false) => ({
  id: crypto.randomUUID(),
  code,
  dose,
  given: amount,
  note,
  corrects,
});
const asPlanned = (list: Schemas["Handed"][]) =>
  give(
    list.flatMap((row) =>
      row.doses.filter((dose) => !dose.given_times).map((dose) => entry(row.code, dose.dose)),
    ),
  );
const print = () => window.print();
</script>

<template>
  <div>
    <template v-if="!rows">
      <p class="text-[1.3rem] leading-snug font-bold">
        {{ course.covered ? "Each is given from a numbered flask." : "Who gets what is behind the seal." }}
      </p>
      <template v-if="course.may_see_key || course.covered">
        <p class="mt-1 max-w-2xl">
          Tie a code to each {{ course.sample_word }}, then give it what its row says.
          <template v-if="!course.covered"
            >Looking is recorded: what you score afterwards counts as open, not blind.</template
          >
        </p>
        <button class="press press-main mt-3" :disabled="busy" @click="giving.look">
          {{ course.covered ? "Show which flask" : "Look at the key" }}
        </button>
      </template>
      <p v-else class="mt-1 max-w-2xl">
        You stay blind, so a preparer sees this.
        <RouterLink :to="{ name: 'people', params: { id } }">Invite one</RouterLink> if there is none, or
        <RouterLink :to="{ name: 'prepare', params: { id, part: 'shuffle' } }">shuffle</RouterLink>.
      </p>
    </template>
    <template v-else>
      <div class="flex flex-wrap items-center justify-between gap-x-6 gap-y-2">
        <p class="text-[1.3rem] font-bold">
          {{ done === all ? `All ${all} are given.` : `${done} of ${all} are given.` }}
        </p>
        <TallyStrokes :solid="done" :rest="all - done" :label="`${done} given, ${all - done} to go`" />
      </div>
      <div class="no-print mt-1 flex flex-wrap items-center gap-x-5 gap-y-1">
        <label v-if="may" class="flex min-h-11 flex-wrap items-center gap-2"
          >Given
          <select
            class="field w-auto"
            :value="at ? 'then' : 'now'"
            aria-label="When it was given"
            @change="
              at =
                ($event.target as HTMLSelectElement).value === 'then'
                  ? new Date(Date.now() - new Date().getTimezoneOffset() * 60000).toISOString().slice(0, 16)
                  : ''
            "
          >
            <option value="now">just now</option>
            <option value="then">earlier, at</option></select
          ><input v-if="at" v-model="at" type="datetime-local" class="field w-auto" aria-label="Given at"
        /></label>
        <button type="button" class="quiet" @click="print">Print this board</button>
      </div>
      <p v-if="!reached" role="status" class="mt-2 border-l-4 border-ink pl-3">
        No connection. What you note is kept on this page until it is sent; do not close it.
      </p>
      <div
        class="mt-4 grid gap-x-8 gap-y-6"
        :class="{ 'xl:grid-cols-2': boards.length > 1 && boards.every((one) => one.columns < 3) }"
      >
        <section v-for="board in boards" :key="board.block">
          <div class="flex flex-wrap items-center justify-between gap-2 border-b-2 border-ink pb-1">
            <h2>{{ board.block || `All ${course.sample_words}` }}</h2>
            <button
              v-if="may && board.left.length"
              type="button"
              class="quiet no-print"
              :disabled="busy"
              @click="asPlanned(board.left)"
            >
              All {{ board.left.length }} {{ board.block ? `of ${board.block}` : "" }} as planned
            </button>
          </div>
          <ul
            class="mt-3 grid gap-2.5"
            :class="board.columns ? 'overflow-x-auto' : 'sm:grid-cols-2'"
            :style="
              board.columns ? { gridTemplateColumns: `repeat(${board.columns}, minmax(13rem, 1fr))` } : {}
            "
          >
            <li
              v-for="row in board.rows"
              :key="row.code"
              :style="board.columns ? { gridRow: row.row!, gridColumn: row.column! } : {}"
            >
              <GiveCard
                :row="row"
                :may="may"
                :busy="busy"
                :covered="covered"
                :zone="course.zone"
                @give="
                  (dose, amount, note, corrects) => give([entry(row.code, dose, amount, note, corrects)])
                "
              />
            </li>
          </ul>
        </section>
      </div>
    </template>
    <ProblemText :says="says || other" />
  </div>
</template>
