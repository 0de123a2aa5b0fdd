<script setup lang="ts">
import NothingHere from "@/parts/NothingHere.vue";
</script>

<template>
  <main class="p-4 lg:p-8"><NothingHere says="There is no page at this address." /></main>
</template>
