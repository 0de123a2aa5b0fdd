<script setup lang="ts">
/** A sentence about what is wrong, by its field. */
defineProps<{ says?: string; id?: string }>();
</script>

<template>
  <p v-if="says" :id="id" role="alert" class="mt-1 flex gap-2 font-bold">
    <svg viewBox="0 0 16 16" class="mt-1 h-4 w-4 flex-none" aria-hidden="true">
      <path d="M8 1 15.5 15H.5z" fill="currentColor" />
      <path d="M8 6v4M8 12v1.4" stroke="var(--sheet)" stroke-width="1.8" />
    </svg>
    <span>{{ says }}</span>
  </p>
</template>
