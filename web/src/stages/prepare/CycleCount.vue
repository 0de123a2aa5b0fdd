<script setup lang="ts">
/** Cycles (washes, firings, uses) counted as they are done, each with its settings; looks follow the count.
 */
import { reactive, ref, useId } from "vue";

import LabelledField from "@/parts/LabelledField.vue";
import ProblemText from "@/parts/ProblemText.vue";
import SaidAnyway from "@/parts/SaidAnyway.vue";
import TallyStrokes from "@/parts/TallyStrokes.vue";
import { answer, api, type Schemas } from "@/shell/api/client";
import { useAct } from "@/shell/act";
import { trialChanged } from "@/shell/query";

const props = defineProps<{ id: string; word: string; count: number; settings: Schemas["SettingOut"][] }>();
const field = useId();
const note = ref("");
const set = reactive<Record<string, string>>({});
const { busy, says, other, through, asks, insist, said } = useAct(["note", "settings"]);
const count = () =>
  through(async () => {
    // A setting that was not written is the planned one.
    const settings = Object.fromEntries(
      props.settings.map((one) => [one.key, set[one.key]?.trim() || one.planned]),
    );
    await answer(
      api.POST("/api/trials/{trial_id}/cycles", {
        ...said(),
        params: { path: { trial_id: props.id } },
        body: { note: note.value, settings },
      }),
    );
    note.value = "";
    for (const one of props.settings) set[one.key] = "";
    await trialChanged(props.id, ["course", "log"]);
  });
const told = useId();
</script>

<template>
  <form class="mt-7 border-t-2 border-ink pt-3" @submit.prevent="count">
    <div class="flex flex-wrap items-center gap-4">
      <h2>Each {{ word }}, counted</h2>
      <TallyStrokes :solid="props.count" :label="`${props.count} counted`" />
    </div>
    <div class="mt-2 flex flex-wrap items-end gap-3">
      <LabelledField
        v-for="one in settings"
        :key="one.key"
        :model-value="set[one.key] ?? ''"
        class="w-40"
        :label="one.what"
        :placeholder="one.planned"
        autocomplete="off"
        :says="says(`settings.${one.key}`)"
        @update:model-value="(text) => (set[one.key] = text)"
      />
      <label :for="field" class="grow"
        ><span class="mb-1 block font-bold">Anything unusual</span>
        <input
          :id="field"
          v-model="note"
          class="field"
          :placeholder="settings.length ? 'the door was opened once' : `settings of this ${word}: 40 °C, 1 h`"
          autocomplete="off"
          :aria-invalid="says('note') ? 'true' : undefined"
          :aria-describedby="told"
      /></label>
      <button class="press press-main" :disabled="busy">All went through one {{ word }}</button>
    </div>
    <ProblemText :id="told" :says="says('note') ?? other" />
    <SaidAnyway :asks="asks" :busy="busy" @insist="insist" />
  </form>
</template>
