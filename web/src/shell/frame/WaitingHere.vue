<script setup lang="ts">
/** The waiting of every page: quiet, and it says nothing about the trial. */
import { useLongWait } from "../patience";

const long = useLongWait();
</script>

<template>
  <p class="waiting no-print" aria-live="polite">
    <span v-if="long" class="strokes"
      ><i v-for="n in 4" :key="n" /><span class="ml-3">One moment …</span></span
    >
  </p>
</template>

<style scoped>
.waiting {
  position: fixed;
  inset: auto 0 calc(1.2rem + var(--bar));
  z-index: 40;
  display: flex;
  justify-content: center;
  pointer-events: none;
}
.strokes {
  display: flex;
  align-items: center;
  padding: 0.6rem 1.2rem;
  background: var(--sheet);
  color: var(--ink);
  border: 2px solid var(--line);
}
.strokes i {
  width: 3px;
  height: 18px;
  margin-right: 4px;
  background: var(--ink);
  animation: kept 1.6s infinite;
}
.strokes i:nth-child(2) {
  animation-delay: 0.2s;
}
.strokes i:nth-child(3) {
  animation-delay: 0.4s;
}
.strokes i:nth-child(4) {
  animation-delay: 0.6s;
}
@keyframes kept {
  0%,
  100% {
    opacity: 0.25;
  }
  50% {
    opacity: 1;
  }
}
</style>
