<script setup lang="ts">
/** What to show where there is nothing to be seen. */
defineProps<{ says: string }>();
</script>

<template>
  <section class="sheet min-h-[60dvh] p-6 lg:p-8">
    <h1>{{ says }}</h1>
    <RouterLink to="/" class="press mt-6">To your shelf</RouterLink>
  </section>
</template>
