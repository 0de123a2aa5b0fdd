<script setup lang="ts">
/** The drawer of bench sums by itself. */
import BenchSums from "@/parts/BenchSums.vue";
import FieldTallyMark from "@/shell/frame/FieldTallyMark.vue";
</script>

<template>
  <div class="mx-auto max-w-6xl px-4 pb-10">
    <header class="flex items-center justify-between py-4">
      <RouterLink to="/" class="no-underline" aria-label="Field Tally, to your shelf"
        ><FieldTallyMark /></RouterLink
      ><RouterLink to="/" class="quiet">Shelf</RouterLink>
    </header>
    <main>
      <BenchSums
        ><template #title><h1 class="mb-2 text-[1.4rem]">Bench sums</h1></template></BenchSums
      >
    </main>
  </div>
</template>
