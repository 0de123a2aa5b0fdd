<script setup lang="ts">
/** A row of the plan: what it is about, and its fields. */
defineProps<{ title: string; hint?: string }>();
</script>

<template>
  <section class="rule mt-4 grid gap-x-6 gap-y-2 pt-4 md:grid-cols-[8.2rem_minmax(0,1fr)]">
    <h2 class="pt-2 text-[1.05rem]">
      {{ title }}
      <span v-if="hint" class="block text-[0.86rem] font-normal text-soft">{{ hint }}</span>
    </h2>
    <div class="min-w-0"><slot /></div>
  </section>
</template>
