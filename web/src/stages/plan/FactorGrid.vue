<script setup lang="ts">
import { sure } from "@/parts/sure";
/** Factors with their levels, and the grid of all combinations: press a cell to take it or to leave it. */
import { computed } from "vue";

import FactorRow from "./FactorRow.vue";
import { cellsOf, renamed, type Cell } from "./factors";
import { factor, treatment } from "./fresh";
import type { Plan, PlanAtWork } from "./usePlan";
import { letterOf } from "@/parts/letters";
import ProblemText from "@/parts/ProblemText.vue";

const plan = defineModel<Plan>({ required: true });
defineProps<{ work: PlanAtWork }>();
const grid = computed(() => cellsOf(plan.value));
const cells = computed(() => grid.value.rows.flatMap((row) => row.cells));
const letter = (cell: Cell) => {
  const place = plan.value.treatments.findIndex((one) => one.key === cell.treatment);
  return letterOf(place);
};
function toggle(cell: Cell): void {
  const place = plan.value.treatments.findIndex((one) => one.key === cell.treatment);
  if (place >= 0) plan.value.treatments.splice(place, 1);
  else
    plan.value.treatments.push(
      treatment({
        name: cell.name,
        levels: cell.levels,
        samples: plan.value.treatments.at(-1)?.samples ?? 4,
        kind: plan.value.treatments.length ? "treatment" : "standard",
      }),
    );
}
function takeAll(): void {
  for (const cell of cells.value) if (!cell.treatment) toggle(cell);
}
function leaveOut(at: number): void {
  const [gone] = plan.value.factors.splice(at, 1);
  for (const one of plan.value.treatments) Reflect.deleteProperty(one.levels, sure(gone).key);
}
const retitle = (change: () => void) => renamed(plan.value, change);
</script>

<template>
  <div>
    <ul v-if="plan.factors.length" class="grid gap-3">
      <FactorRow
        v-for="(one, i) in plan.factors"
        :key="one.key"
        v-model="plan.factors[i]!"
        :place="i"
        :work="work"
        @out="leaveOut(i)"
        @rename="retitle"
      />
    </ul>
    <button type="button" class="press press-small mt-3" data-adds @click="plan.factors.push(factor())">
      {{ plan.factors.length ? "Add another factor" : "Begin with a factor" }}
    </button>
    <ProblemText :says="work.says('factors')" />
    <template v-if="cells.length">
      <div class="mt-5 flex flex-wrap items-baseline justify-between gap-3">
        <p>
          <b>{{ cells.filter((cell) => cell.treatment).length }} of {{ cells.length }}</b> combinations are
          taken. Press one to take it or to leave it.
        </p>
        <button type="button" class="quiet" @click="takeAll">Take all {{ cells.length }}</button>
      </div>
      <div class="mt-1 overflow-x-auto">
        <table class="w-full border-separate border-spacing-1" aria-label="Combinations of the factors">
          <thead>
            <tr>
              <th class="pr-2 text-left text-[0.9rem] font-normal text-soft" scope="col">{{ grid.down }}</th>
              <th
                v-for="column in grid.columns"
                :key="column.key"
                scope="col"
                class="text-left text-[0.95rem]"
              >
                {{ column.name || "…" }}
              </th>
            </tr>
          </thead>
          <tbody>
            <tr v-for="row in grid.rows" :key="row.name">
              <th scope="row" class="w-36 pr-2 text-left text-[0.95rem]">{{ row.name }}</th>
              <td v-for="cell in row.cells" :key="cell.name" class="p-0">
                <button
                  type="button"
                  class="cell"
                  :class="{ taken: cell.treatment }"
                  :aria-pressed="Boolean(cell.treatment)"
                  :aria-label="cell.name"
                  @click="toggle(cell)"
                >
                  <span class="code text-[1.15rem]">{{ letter(cell) }}</span>
                  <span class="text-[0.9rem]">{{
                    cell.treatment
                      ? `${plan.treatments.find((one) => one.key === cell.treatment)!.samples} each`
                      : "left out"
                  }}</span>
                </button>
              </td>
            </tr>
          </tbody>
        </table>
      </div>
    </template>
  </div>
</template>

<style scoped>
.cell {
  width: 100%;
  min-width: 6rem;
  min-height: 56px;
  display: flex;
  align-items: center;
  gap: 0.7rem;
  padding: 0 0.8rem;
  border: 2px dashed var(--line);
  color: var(--soft);
}
.taken {
  border: 2px solid var(--ink);
  background: var(--sheet);
  color: var(--ink);
  box-shadow: inset 6px 0 0 var(--ink);
  padding-left: 1.1rem;
}
</style>
