<script setup lang="ts">
/** The drawer of bench sums by itself. */
import BenchSums from "@/parts/BenchSums.vue";

defineProps<{ sum?: string }>();
</script>

<template>
  <div class="mx-auto max-w-6xl px-4 py-5 lg:py-8">
    <main>
      <BenchSums :begin="sum"
        ><template #title><h1 class="mb-2 text-[1.4rem]">Bench sums</h1></template></BenchSums
      >
    </main>
  </div>
</template>
