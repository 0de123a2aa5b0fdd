<script setup lang="ts">
import { sure } from "@/parts/sure";
/** Values worth a second look: left as they are, or read again; both stay, and the plan says what counts. */
import { defineAsyncComponent, ref } from "vue";

import type { RoundAtWork } from "./useRound";

const RetestDialog = defineAsyncComponent(() => import("./RetestDialog.vue"));
const props = defineProps<{ work: RoundAtWork }>();
const { odd } = props.work;
const again = ref<(typeof odd.value)[number] | null>(null);
/** The reason that the second reading carries; the verdict tells by it what became of a doubt. */
const LOOKED_ODD = "it looked odd";
function done(): void {
  const { id } = sure(again.value);
  again.value = null;
  props.work.letStand(id);
}
</script>

<template>
  <ul v-if="odd.length" aria-label="Worth a second look">
    <li
      v-for="one in odd"
      :key="one.id"
      role="status"
      class="mt-2 flex flex-wrap items-center justify-between gap-x-4 gap-y-1 border-l-4 border-ink bg-sheet p-3"
    >
      <p class="min-w-0 grow basis-64">
        <b class="code">{{ one.sample.code }}</b>, {{ one.outcome.name }}: {{ one.says }} Look again?
      </p>
      <span class="flex gap-2"
        ><button
          type="button"
          class="press press-small press-main"
          :aria-label="`Read ${one.sample.code} again`"
          @click="again = one"
        >
          Read again</button
        ><button type="button" class="quiet" @click="work.letStand(one.id)">It is right</button></span
      >
    </li>
  </ul>
  <RetestDialog
    v-if="again"
    :work="work"
    :sample="again.sample"
    :outcome="again.outcome"
    :reason="LOOKED_ODD"
    @done="done"
    @close="again = null"
  />
</template>
