<script setup lang="ts">
/** A row of the plan: what it is about, and its fields. */
defineProps<{ title: string; hint?: string }>();
</script>

<template>
  <section class="rule mt-4 grid gap-x-6 gap-y-2 pt-4 md:grid-cols-[8.2rem_minmax(0,1fr)] lg:grid-cols-1 2xl:grid-cols-[9rem_minmax(0,1fr)]">
    <h2 class="text-[1.05rem] 2xl:pt-2">
      {{ title }}
      <span v-if="hint" class="text-[0.9rem] font-normal text-soft md:block lg:ml-2 lg:inline 2xl:ml-0 2xl:block">{{ hint }}</span>
    </h2>
    <div class="min-w-0"><slot /></div>
  </section>
</template>
