<script setup lang="ts">
/** Why a sample cannot be scored now. */
import { ref } from "vue";

import DialogSheet from "@/parts/DialogSheet.vue";
import LabelledField from "@/parts/LabelledField.vue";

defineProps<{ code: string }>();
const emit = defineEmits<{ giveUp: [reason: string]; close: [] }>();
const USUAL = ["not found", "damaged", "could not be reached", "too dark to tell"];
const reason = ref("");
const says = ref("");
function submit(): void {
  if (reason.value.trim()) emit("giveUp", reason.value.trim());
  else says.value = "Say why, so that the verdict can tell what is missing.";
}
</script>

<template>
  <DialogSheet :open="true" :title="`Why can ${code} not be scored?`" @close="emit('close')">
    <div class="mt-4 grid grid-cols-2 gap-2">
      <button v-for="one in USUAL" :key="one" class="press" @click="emit('giveUp', one)">{{ one }}</button>
    </div>
    <form class="mt-5 grid gap-4" @submit.prevent="submit">
      <LabelledField v-model="reason" label="Or in your own words" :says="says" />
      <div class="flex gap-3">
        <button class="press press-main">Keep this reason</button>
        <button type="button" class="press" @click="emit('close')">Back</button>
      </div>
    </form>
  </DialogSheet>
</template>
