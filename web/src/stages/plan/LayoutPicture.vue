<script setup lang="ts">
import { sure } from "@/parts/sure";
/** One possible draw of the layout, in ink: letters for treatments, hatched squares for guards. */
import { computed, onUnmounted, ref, watch } from "vue";

import type { Plan } from "./usePlan";
import { letterOf } from "@/parts/letters";
import ProblemText from "@/parts/ProblemText.vue";
import { answer, api, type Schemas } from "@/shell/api/client";
import { problemsOf } from "@/shell/api/problems";

type Slot = Schemas["Slot"];
const props = defineProps<{ plan: Plan; sealed?: boolean }>();
const draw = ref(1);
const drawn = ref<Schemas["LayoutOut"]>();
const says = ref("");
let timer = 0;
let turn = 0;
async function ask(): Promise<void> {
  const mine = ++turn;
  try {
    const out = await answer(api.POST("/api/layout", { body: { plan: props.plan, draw: draw.value } }));
    if (mine === turn) [drawn.value, says.value] = [out, ""];
  } catch (error) {
    if (mine === turn) [drawn.value, says.value] = [undefined, sure(problemsOf(error)[0]).says];
  }
}
watch(
  () => [
    JSON.stringify([props.plan.layout, props.plan.treatments, props.plan.factors, props.plan.begun]),
    draw.value,
  ],
  () => {
    window.clearTimeout(timer);
    timer = window.setTimeout(() => void ask(), 250);
  },
  { immediate: true },
);
onUnmounted(() => window.clearTimeout(timer));

/** Whether it is no draw: what stands where was told. */
const stands = computed(() => Boolean(props.plan.begun?.samples.length));
const letters = computed(() => new Map(props.plan.treatments.map((one, i) => [one.key, letterOf(i)])));
const kind = computed(() => props.plan.layout.kind);
interface Board {
  key: string;
  name: string;
  columns: number;
  cells: { at: string; letter: string; guard: boolean }[];
}
/** The boards to draw: a block, a square, or all at once; whole plots and pairs are rows. */
const boards = computed<Board[]>(() => {
  const groups = new Map<string, Slot[]>();
  for (const slot of drawn.value?.slots ?? []) {
    const key = kind.value === "latin" ? `${slot.plot}` : (slot.block ?? "");
    groups.set(key, [...(groups.get(key) ?? []), slot]);
  }
  const named = (key: string) =>
    kind.value === "latin"
      ? groups.size > 1
        ? `Square ${key}`
        : ""
      : (props.plan.layout.blocks.find((one) => one.key === key)?.name ?? "");
  return [...groups].map(([key, slots]) => ({ key, name: named(key), ...placed(slots) }));
});
function placed(slots: Slot[]): Pick<Board, "columns" | "cells"> {
  const grid = props.plan.layout.grid;
  const rows =
    grid && sure(drawn.value).spots.length ? grid.rows : Math.max(0, ...slots.map((slot) => slot.row ?? 0));
  const columns =
    grid && sure(drawn.value).spots.length
      ? grid.columns
      : Math.max(0, ...slots.map((slot) => slot.column ?? 0));
  if (!rows || !columns || kind.value === "pairs")
    return {
      columns: kind.value === "pairs" ? 2 : 0,
      cells: slots.map((slot) => ({
        at: `${slot.place}`,
        letter: sure(letters.value.get(slot.treatment)),
        guard: false,
      })),
    };
  const by = new Map(slots.map((slot) => [`${slot.row},${slot.column}`, slot]));
  const free = new Set(sure(drawn.value).spots.map((spot) => `${spot.row},${spot.column}`));
  const cells = Array.from({ length: rows * columns }, (_, i) => {
    const at = `${Math.floor(i / columns) + 1},${(i % columns) + 1}`;
    const slot = by.get(at);
    return { at, letter: slot ? sure(letters.value.get(slot.treatment)) : "", guard: !slot && !free.has(at) };
  });
  return { columns, cells };
}
const line = (board: Board, row: number) => board.cells.slice(row * board.columns, (row + 1) * board.columns);
const described = (board: Board) =>
  board.columns
    ? Array.from({ length: Math.ceil(board.cells.length / board.columns) }, (_, row) =>
        line(board, row)
          .map((cell) => cell.letter || (cell.guard ? "guard" : "empty"))
          .join(" "),
      ).join("; ")
    : board.cells.map((cell) => cell.letter).join(" ");
</script>

<template>
  <section class="rule mt-4 pt-4" :aria-label="stands ? 'As it stands' : 'One possible draw'">
    <div class="flex flex-wrap items-baseline justify-between gap-3">
      <h2 class="text-[1.05rem]">
        {{ stands ? "As it stands" : "One possible draw" }}
        <span v-if="!stands" class="ml-2 text-[0.9rem] font-normal text-soft">{{
          sealed ? "not the one that was drawn" : "the real one is drawn with the seal"
        }}</span>
      </h2>
      <button v-if="!stands" type="button" class="quiet" @click="draw += 1">Draw another</button>
    </div>
    <ProblemText :says="says" />
    <template v-if="drawn">
      <div class="mt-2 flex flex-wrap gap-x-8 gap-y-5">
        <figure v-for="board in boards" :key="board.key" class="min-w-0 max-w-full">
          <figcaption v-if="board.name" class="mb-1 font-bold">{{ board.name }}</figcaption>
          <div
            class="board"
            :class="{ loose: !board.columns, pairs: kind === 'pairs', plots: kind === 'split' }"
            :style="
              board.columns
                ? { gridTemplateColumns: `repeat(${board.columns}, ${board.columns > 9 ? 38 : 50}px)` }
                : {}
            "
            role="img"
            :aria-label="`${board.name || 'The places'}: ${described(board)}`"
            tabindex="0"
          >
            <span
              v-for="cell in board.cells"
              :key="cell.at"
              class="place code"
              :class="{ guard: cell.guard, free: !cell.letter && !cell.guard }"
              >{{ cell.letter }}</span
            >
          </div>
        </figure>
      </div>
      <dl class="mt-3 flex flex-wrap gap-x-5 gap-y-1 text-[0.95rem]">
        <div v-for="one in plan.treatments" :key="one.key" class="flex gap-2">
          <dt class="code">{{ letters.get(one.key) }}</dt>
          <dd>{{ one.name }}</dd>
        </div>
        <div
          v-if="boards.some((board) => board.cells.some((cell) => cell.guard))"
          class="flex items-center gap-2"
        >
          <dt><span class="place guard inline-block !h-4 !w-6" /></dt>
          <dd>guard</dd>
        </div>
      </dl>
      <p v-if="drawn.more" class="mt-2 text-soft">And {{ drawn.more }} more.</p>
    </template>
  </section>
</template>

<style scoped>
.board {
  display: grid;
  gap: 3px;
  overflow-x: auto;
  max-width: 100%;
}
.loose .place {
  width: 46px;
}
.loose {
  display: flex;
  flex-wrap: wrap;
  max-width: 42rem;
}
.pairs {
  display: grid;
  grid-auto-flow: row;
  column-gap: 0;
  row-gap: 6px;
}
.plots {
  row-gap: 8px;
  column-gap: 0;
}
.place {
  width: 100%;
  height: 40px;
  display: grid;
  place-items: center;
  background: var(--sheet);
  border: 1.5px solid var(--ink);
}
.guard {
  background: repeating-linear-gradient(135deg, var(--line) 0 3px, transparent 3px 7px);
  border: 1px solid var(--line);
}
.free {
  border: 1.5px dashed var(--line);
  background: none;
}
</style>
