<script setup lang="ts">
import { sure } from "@/parts/sure";
/** One tablet handed round: whose turn it is, then their booth, then the next.  Nothing of the trial is on
 * it.
 */
import { computed, onMounted, onUnmounted, reactive, ref } from "vue";

import BoothPage from "./BoothPage.vue";
import { answersHere, boothLane, keepBooth, sitDown, tableOf } from "./booth";
import ProblemText from "@/parts/ProblemText.vue";
import TallyStrokes from "@/parts/TallyStrokes.vue";
import type { Schemas } from "@/shell/api/client";
import { problemsOf, Unreachable } from "@/shell/api/problems";
import { onSettled, send } from "@/shell/outbox";

type Table = Schemas["TableOut"];
const props = defineProps<{ token: string }>();
const KEPT = `field-tally/table/${props.token}`;
const table = ref<Table>();
const seat = ref<string | null>(null);
const says = ref("");
const keeping = ref("");
let looks = 0;

/** Of each seat, how many answers wait on this tablet and how many were not taken. */
const here = reactive(new Map<string, { waiting: number; refused: number }>());
async function look(): Promise<void> {
  for (const { token } of table.value?.seats ?? []) {
    const rows = await answersHere(token);
    const refused = rows.filter((row) => row.refused).length;
    here.set(token, { waiting: rows.length - refused, refused });
  }
}
const stopHearing = onSettled(() => void look());
async function load(): Promise<void> {
  says.value = "";
  await look();
  for (const { token } of table.value?.seats ?? [])
    if (here.get(token)?.waiting) await send(boothLane(token));
  try {
    table.value = await tableOf(props.token);
    localStorage.setItem(KEPT, JSON.stringify(table.value));
  } catch (error) {
    const kept = localStorage.getItem(KEPT);
    if (error instanceof Unreachable && kept) table.value = JSON.parse(kept) as Table;
    else says.value = sure(problemsOf(error)[0]).says;
  }
  await look();
}
/** Answers that wait on this tablet count as given. */
const doneOf = (one: Table["seats"][number]) =>
  Math.min(one.of, one.done + (here.get(one.token)?.waiting ?? 0));
/** What the server turned down stays on this tablet until somebody has seen it. */
const refusedOf = (one: Table["seats"][number]) => here.get(one.token)?.refused ?? 0;
const waiting = computed(() =>
  (table.value?.seats ?? []).filter((one) => doneOf(one) < one.of && !one.elsewhere),
);
async function keepAll(): Promise<void> {
  for (const one of waiting.value) {
    keeping.value = `Seat ${one.number} …`;
    try {
      keepBooth(one.token, await sitDown(one.token));
    } catch (error) {
      says.value = sure(problemsOf(error)[0]).says;
    }
  }
  keeping.value = "All are kept on this tablet.";
}
async function next(): Promise<void> {
  seat.value = null;
  await load();
}
onMounted(() => {
  const kept = localStorage.getItem(KEPT);
  if (kept) table.value = JSON.parse(kept) as Table;
  void load();
  looks = window.setInterval(() => void (seat.value ? undefined : load()), 6_000);
});
onUnmounted(() => {
  stopHearing();
  window.clearInterval(looks);
});
</script>

<template>
  <BoothPage v-if="seat" :key="seat" :token="seat" handed @done="next" />
  <main v-else class="sheet mx-auto min-h-dvh max-w-xl px-4 py-5">
    <h1>Whose turn is it?</h1>
    <ProblemText class="mt-3" :says="says" />
    <template v-if="table">
      <p v-if="table.state !== 'open'" class="mt-4 text-[1.2rem]">
        {{ table.state === "planned" ? "The panel has not begun yet." : "The panel is closed." }}
      </p>
      <ul v-else class="mt-4 grid gap-2.5">
        <li v-for="one in table.seats" :key="one.number">
          <button
            type="button"
            class="press min-h-[64px] w-full justify-between"
            :disabled="one.elsewhere || (doneOf(one) >= one.of && !refusedOf(one))"
            @click="seat = one.token"
          >
            <span
              ><b class="code mr-3 text-[1.4rem]">{{ one.number }}</b
              >{{ one.name }}</span
            >
            <span v-if="one.elsewhere" class="font-normal">on another device</span>
            <span v-else-if="refusedOf(one)" class="font-normal"
              >{{ refusedOf(one) === 1 ? "an answer was" : `${refusedOf(one)} answers were` }} not taken</span
            >
            <TallyStrokes
              v-else
              :solid="doneOf(one)"
              :rest="one.of - doneOf(one)"
              :label="`${doneOf(one)} of ${one.of} answers given`"
            />
          </button>
        </li>
      </ul>
      <p v-if="table.state === 'open' && !waiting.length" class="mt-4 text-[1.2rem] font-bold">
        All are done. Give the tablet back to the host.
      </p>
      <div v-else-if="table.state === 'open'" class="mt-5">
        <button class="press" @click="keepAll">Keep all here, for a place without a network</button>
        <p class="mt-1 text-soft" role="status">
          {{ keeping || "Their links then open on this tablet alone." }}
        </p>
      </div>
    </template>
  </main>
</template>
