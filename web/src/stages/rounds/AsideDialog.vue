<script setup lang="ts">
/** Putting a sample back that was left out, with the reason. */
import { ref } from "vue";

import DialogSheet from "@/parts/DialogSheet.vue";
import LabelledField from "@/parts/LabelledField.vue";
import ProblemText from "@/parts/ProblemText.vue";
import SaidAnyway from "@/parts/SaidAnyway.vue";
import { answer, api, type Schemas } from "@/shell/api/client";
import { useAct } from "@/shell/act";
import { trialChanged } from "@/shell/query";

const props = defineProps<{ id: string; code: string; tag: Schemas["TagOut"]; opened: boolean }>();
const emit = defineEmits<{ close: [] }>();
const reason = ref("");
const { busy, says, other, through, asks, insist, said } = useAct(["reason"]);
const move = () =>
  through(async () => {
    const body = { code: props.code, reason: reason.value, back: true };
    await answer(
      api.POST("/api/trials/{trial_id}/aside", { ...said(), params: { path: { trial_id: props.id } }, body }),
    );
    // First, since the board shows another dialog for the tag as soon as it has changed.
    emit("close");
    await trialChanged(props.id);
  });
</script>

<template>
  <DialogSheet :open="true" :title="`Put ${code} back`" @close="emit('close')">
    <p class="mt-2">It was left out: {{ tag.set_aside }}. Put back, it is scored again and counts in full.</p>
    <p v-if="opened" class="mt-2 font-bold">
      The key is open, so this will be marked as decided after the fact.
    </p>
    <form class="mt-4 grid gap-4" @submit.prevent="move">
      <LabelledField v-model="reason" label="Why is it put back?" :says="says('reason')" />
      <ProblemText :says="other" />
      <SaidAnyway :asks="asks" :busy="busy" @insist="insist" />
      <div class="flex flex-wrap gap-3">
        <button class="press press-main" :disabled="busy">Put it back</button>
        <button type="button" class="press" @click="emit('close')">Leave it</button>
      </div>
    </form>
  </DialogSheet>
</template>
