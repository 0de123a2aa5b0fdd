<script setup lang="ts">
/** A treatment's letter on its hue. */
defineProps<{ treatments: readonly { letter: string; name: string }[]; name: string | null }>();
const at = (treatments: readonly { name: string }[], name: string | null) =>
  treatments.findIndex((one) => one.name === name);
</script>

<template>
  <span
    v-if="name !== null && at(treatments, name) >= 0"
    :data-hue="at(treatments, name) % 8"
    class="inline-block"
    ><span
      class="inline-grid h-6 min-w-6 place-items-center bg-(--hue) px-1 font-bold text-sheet"
      :title="name"
      >{{ treatments[at(treatments, name)]!.letter }}</span
    ></span
  >
  <span v-else>–</span>
</template>
