<script setup lang="ts">
/** A row of the plan: what it is about, and its fields. */
defineProps<{ title: string; hint?: string }>();
</script>

<template>
  <section class="rule mt-4 pt-4">
    <h2 class="mb-2 text-[1.05rem]">
      {{ title }}
      <span v-if="hint" class="ml-2 text-[0.9rem] font-normal text-soft">{{ hint }}</span>
    </h2>
    <div class="min-w-0"><slot /></div>
  </section>
</template>
