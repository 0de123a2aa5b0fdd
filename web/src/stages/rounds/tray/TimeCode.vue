<script setup lang="ts">
/** The time of this moment as a square, made anew every other second: for a camera with a wrong clock. */
import { onBeforeUnmount, ref } from "vue";

import DialogSheet from "@/parts/DialogSheet.vue";

const emit = defineEmits<{ close: [] }>();
const EVERY = 2000;
const turn = ref(0);
const timer = window.setInterval(() => (turn.value += 1), EVERY);
onBeforeUnmount(() => window.clearInterval(timer));
</script>

<template>
  <DialogSheet open title="The time, for a camera to see" @close="emit('close')">
    <p class="mt-1">
      Take a photo of this square with the camera that took the others, and drop it among them. Its photos are
      then dated by it, however wrong the camera's own clock is.
    </p>
    <img
      :src="`/api/time-code.svg?${turn}`"
      alt="The time of this moment as a square"
      class="mx-auto mt-4 block w-full max-w-80 bg-white"
    />
    <p class="mt-4"><button type="button" class="press press-main" @click="emit('close')">Close</button></p>
  </DialogSheet>
</template>
