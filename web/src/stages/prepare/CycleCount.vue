<script setup lang="ts">
/** Cycles (washes, firings, uses) counted as they are done, each with its settings; looks follow the count. */
import { ref, useId } from "vue";

import ProblemText from "@/parts/ProblemText.vue";
import TallyStrokes from "@/parts/TallyStrokes.vue";
import { answer, api } from "@/shell/api/client";
import { useAct } from "@/shell/act";
import { trialChanged } from "@/shell/query";

const props = defineProps<{ id: string; word: string; count: number }>();
const field = useId();
const note = ref("");
const { busy, says, other, through } = useAct(["note"]);
const count = () => through(async () => {
  await answer(api.POST("/api/trials/{trial_id}/cycles", { params: { path: { trial_id: props.id } }, body: { note: note.value } }));
  note.value = "";
  await trialChanged(props.id, ["course", "log"]);
});
</script>

<template>
  <form class="mt-7 border-t-2 border-ink pt-3" @submit.prevent="count">
    <h2>Each {{ word }}, counted</h2>
    <div class="mt-2 flex flex-wrap items-center gap-4">
      <TallyStrokes :solid="props.count" :label="`${props.count} counted`" />
      <label :for="field" class="sr-only">Settings of this {{ word }}</label>
      <input :id="field" v-model="note" class="field max-w-80 grow" :placeholder="`settings of this ${word}: 40 °C, 1 h`" autocomplete="off" :aria-invalid="says('note') ? 'true' : undefined" />
      <button class="press press-main" :disabled="busy">All went through one {{ word }}</button>
    </div>
    <ProblemText :says="says('note') ?? other" />
  </form>
</template>
