<script setup lang="ts">
/** A verdict on its way: its sentence as soon as it is known, then all that stands behind it. */
import type { Schemas } from "@/shell/api/client";

defineProps<{ state: Schemas["UnderWay"] }>();
</script>

<template>
  <section class="sheet min-h-[60dvh] p-6 lg:p-8" aria-live="polite" aria-busy="true">
    <template v-if="state.under_way === 'failed'">
      <h1>This verdict could not be worked out.</h1>
      <p class="mt-3 max-w-[60ch]">
        Nothing of the trial is lost. It is tried again when you open this page anew.
      </p>
    </template>
    <template v-else>
      <h1>{{ state.says || "The verdict waits its turn …" }}</h1>
      <p class="mt-3 text-soft">This trial is large; what stands behind its verdict is being worked out.</p>
      <div class="working mt-6" role="presentation"></div>
    </template>
  </section>
</template>

<style scoped>
.working {
  height: 0.5rem;
  max-width: 24rem;
  background: repeating-linear-gradient(90deg, var(--color-ink) 0 0.25rem, transparent 0.25rem 0.75rem);
  animation: pass 2.4s linear infinite;
}
@keyframes pass {
  to {
    background-position: 3rem 0;
  }
}
@media (prefers-reduced-motion: reduce) {
  .working {
    animation: none;
  }
}
</style>
