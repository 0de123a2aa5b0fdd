<script setup lang="ts">
/** Setting a sample aside, or putting it back, with what happened. */
import { ref } from "vue";

import DialogSheet from "@/parts/DialogSheet.vue";
import LabelledField from "@/parts/LabelledField.vue";
import ProblemText from "@/parts/ProblemText.vue";
import { answer, api, type Schemas } from "@/shell/api/client";
import { useAct } from "@/shell/act";
import { trialChanged } from "@/shell/query";

const props = defineProps<{ id: string; code: string; tag: Schemas["TagOut"]; opened: boolean }>();
const emit = defineEmits<{ close: [] }>();
const reason = ref("");
const { busy, says, other, through } = useAct(["reason"]);
const move = () =>
  through(async () => {
    const body = { code: props.code, reason: reason.value, back: props.tag.set_aside !== null };
    await answer(api.POST("/api/trials/{trial_id}/aside", { params: { path: { trial_id: props.id } }, body }));
    await trialChanged(props.id);
    emit("close");
  });
</script>

<template>
  <DialogSheet :open="true" :title="tag.set_aside ? `Put ${code} back` : `Set ${code} aside`" @close="emit('close')">
    <p v-if="tag.set_aside" class="mt-2">It was set aside: {{ tag.set_aside }}.</p>
    <p v-else class="mt-2">
      It is not scored any more, and the verdict is told without it and with it, side by side. What was read on it stays.
    </p>
    <p v-if="opened" class="mt-2 font-bold">The key is open, so this will be marked as decided after the fact.</p>
    <form class="mt-4 grid gap-4" @submit.prevent="move">
      <LabelledField v-model="reason" label="What happened?" :placeholder="tag.set_aside ? '' : 'knocked over'" :says="says('reason')" />
      <ProblemText :says="other" />
      <div class="flex flex-wrap gap-3">
        <button class="press press-main" :disabled="busy">{{ tag.set_aside ? "Put it back" : "Set it aside" }}</button>
        <button type="button" class="press" @click="emit('close')">Leave it</button>
      </div>
    </form>
  </DialogSheet>
</template>
