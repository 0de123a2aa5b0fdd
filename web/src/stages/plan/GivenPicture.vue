<script setup lang="ts">
/** What stands where: two samples change places when one is tapped after the other, or dragged onto it. */
import { computed, ref } from "vue";

import type { Plan } from "./usePlan";
import { letterOf } from "@/parts/letters";
import { tell } from "@/shell/arrival";

const props = defineProps<{ plan: Plan; names: string[] }>();
const emit = defineEmits<{ swap: [one: number, other: number] }>();
type Given = NonNullable<Plan["begun"]>["samples"][number];
const letters = computed(() => new Map(props.plan.treatments.map((one, i) => [one.key, letterOf(i)])));
interface Board {
  key: string;
  name: string;
  columns: number;
  cells: { i: number; one: Given }[];
}
const boards = computed<Board[]>(() => {
  const groups = new Map<string, { i: number; one: Given }[]>();
  const squares = props.plan.layout.kind === "latin";
  for (const [i, one] of (props.plan.begun?.samples ?? []).entries()) {
    const key = squares ? `Square ${one.plot}` : one.block;
    groups.set(key, [...(groups.get(key) ?? []), { i, one }]);
  }
  return [...groups].map(([key, cells]) => ({
    key,
    name: squares
      ? groups.size > 1
        ? key
        : ""
      : (props.plan.layout.blocks.find((one) => one.key === key)?.name ?? ""),
    columns: Math.max(0, ...cells.map(({ one }) => one.column ?? 0)),
    cells,
  }));
});
const held = ref<number | null>(null);
function tap(i: number): void {
  if (held.value === null) {
    held.value = i;
    tell(`${props.names[i] ?? "Taken up"}, taken up: tap the one it changes places with`);
  } else {
    if (held.value !== i) emit("swap", held.value, i);
    held.value = null;
  }
}
function dropped(onto: number): void {
  if (held.value !== null) emit("swap", held.value, onto);
  held.value = null;
}
</script>

<template>
  <div class="mt-2 flex flex-wrap gap-x-8 gap-y-5">
    <figure v-for="board in boards" :key="board.key" class="max-w-full min-w-0">
      <figcaption v-if="board.name" class="mb-1 font-bold">{{ board.name }}</figcaption>
      <ol
        class="grid gap-1 overflow-x-auto p-1"
        :style="{
          gridTemplateColumns: `repeat(${board.columns || Math.min(8, board.cells.length)}, minmax(4.2rem, 1fr))`,
        }"
      >
        <li
          v-for="{ i, one } in board.cells"
          :key="i"
          :style="one.row && one.column ? { gridColumn: one.column } : {}"
        >
          <button
            type="button"
            class="stand"
            :class="{ held: held === i }"
            :aria-pressed="held === i"
            :aria-label="`${names[i] ?? one.name}, change places`"
            draggable="true"
            @click="tap(i)"
            @dragstart="held = i"
            @dragend="held = null"
            @dragover.prevent
            @drop.prevent="dropped(i)"
          >
            <b class="code">{{ letters.get(one.treatment) }}</b><span class="name">{{
              names[i] ?? one.name
            }}</span>
          </button>
        </li>
      </ol>
    </figure>
  </div>
</template>

<style scoped>
.stand {
  width: 100%;
  min-height: 56px;
  padding: 0.2rem 0.4rem;
  display: grid;
  align-content: center;
  background: var(--sheet);
  border: 1.5px solid var(--ink);
  cursor: grab;
}
.name {
  font-size: 0.8rem;
  color: var(--soft);
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
.held {
  box-shadow: inset 0 0 0 4px var(--ink);
}
</style>
