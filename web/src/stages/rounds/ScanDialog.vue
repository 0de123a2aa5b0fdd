<script setup lang="ts">
import { sure } from "@/parts/sure";
/** The camera looks for the square of a tag; nothing of the picture is kept or sent. */
import jsQR from "jsqr";
import { onMounted, onUnmounted, ref } from "vue";

import { sampleIn } from "./tagAddress";
import DialogSheet from "@/parts/DialogSheet.vue";
import ProblemText from "@/parts/ProblemText.vue";

const emit = defineEmits<{ found: [id: string]; close: [] }>();
const LOOK_EVERY = 160;
const WIDEST = 720;
const video = ref<HTMLVideoElement>();
const says = ref("");
const odd = ref("");
let stream: MediaStream | undefined;
let timer = 0;
let gone = false;

function look(canvas: HTMLCanvasElement): void {
  const shown = video.value;
  if (gone || !shown) return;
  if (shown.videoWidth) {
    const scale = Math.min(1, WIDEST / shown.videoWidth);
    [canvas.width, canvas.height] = [
      Math.round(shown.videoWidth * scale),
      Math.round(shown.videoHeight * scale),
    ];
    const pen = sure(canvas.getContext("2d", { willReadFrequently: true }));
    pen.drawImage(shown, 0, 0, canvas.width, canvas.height);
    const picture = pen.getImageData(0, 0, canvas.width, canvas.height);
    const code = jsQR(picture.data, canvas.width, canvas.height, { inversionAttempts: "dontInvert" });
    if (code) {
      const id = sampleIn(code.data);
      if (id) {
        emit("found", id);
        return;
      }
      odd.value = "That square is no tag of a sample.";
    }
  }
  timer = window.setTimeout(() => look(canvas), LOOK_EVERY);
}
onMounted(async () => {
  try {
    stream = await navigator.mediaDevices.getUserMedia({ video: { facingMode: "environment" } });
    if (gone) {
      stream.getTracks().forEach((track) => track.stop());
      return;
    }
    sure(video.value).srcObject = stream;
    await sure(video.value).play();
    look(document.createElement("canvas"));
  } catch {
    says.value = "The camera cannot be used here. Type the code of the tag instead.";
  }
});
onUnmounted(() => {
  gone = true;
  window.clearTimeout(timer);
  stream?.getTracks().forEach((track) => track.stop());
});
</script>

<template>
  <DialogSheet open title="Hold the tag before the camera" @close="emit('close')">
    <video
      ref="video"
      class="mt-3 aspect-square w-full bg-panel object-cover"
      muted
      playsinline
      aria-label="What the camera sees"
    />
    <ProblemText :says="says || odd" />
    <button type="button" class="press mt-4" @click="emit('close')">Close</button>
  </DialogSheet>
</template>
