<script setup lang="ts">
import { sure } from "@/parts/sure";
/** Where two people changed the same thing: theirs stands, mine is at hand. */
import type { Clash } from "./merge";
import { partOf } from "./planParts";
import type { PlanAtWork } from "./usePlan";

defineProps<{ work: PlanAtWork }>();
function shown(value: unknown): string {
  if (value === null || value === "" || value === undefined) return "nothing";
  return typeof value === "string" || typeof value === "number" || typeof value === "boolean"
    ? `“${value}”`
    : "a different version";
}
const where = (clash: Clash) =>
  `${partOf(clash.at).name}, ${sure(clash.at.split(".").at(-1)).replaceAll("_", " ")}`;
</script>

<template>
  <section v-if="work.clashes.value.length" class="my-3 border-l-4 border-ink bg-sheet p-4" role="alert">
    <p class="font-bold">Two of you changed the same thing. Theirs stands; yours is not lost.</p>
    <ul class="mt-1">
      <li v-for="clash in work.clashes.value" :key="clash.at" class="flex flex-wrap items-center gap-x-3">
        <span class="grow"
          >{{ where(clash) }}: theirs {{ shown(clash.theirs) }}, yours {{ shown(clash.mine) }}.</span
        >
        <button type="button" class="quiet" @click="work.putBack(clash)">Put mine back</button>
        <button type="button" class="quiet" @click="work.letGo(clash)">Keep theirs</button>
      </li>
    </ul>
  </section>
</template>
