<script setup lang="ts">
/** Asked once more before something is done: with a reason to be given, or just so. */
import { ref } from "vue";

import DialogSheet from "./DialogSheet.vue";
import LabelledField from "./LabelledField.vue";

const props = defineProps<{ title: string; says: string; label?: string; go: string }>();
const emit = defineEmits<{ go: [reason: string]; close: [] }>();
const reason = ref("");
const empty = ref("");
function yes(): void {
  if (props.label && !reason.value.trim()) empty.value = "A few words are needed here.";
  else emit("go", reason.value.trim());
}
</script>

<template>
  <DialogSheet :open="true" :title="title" @close="emit('close')">
    <p class="mt-2">{{ says }}</p>
    <form class="mt-4 grid gap-4" @submit.prevent="yes">
      <LabelledField v-if="label" v-model="reason" :label="label" autocomplete="off" :says="empty" />
      <div class="flex flex-wrap gap-3">
        <button class="press press-main">{{ go }}</button>
        <button type="button" class="press" @click="emit('close')">Leave it</button>
      </div>
    </form>
  </DialogSheet>
</template>
