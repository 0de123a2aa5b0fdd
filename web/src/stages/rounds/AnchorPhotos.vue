<script setup lang="ts">
/** What the levels look like, as small pictures to hold the sample against. */
import { computed } from "vue";

import type { Outcome } from "./useRound";
import { reading } from "@/parts/amounts";
import type { Schemas } from "@/shell/api/client";

const props = defineProps<{ photos: Schemas["PhotoOut"][]; outcome: Outcome }>();
const levels = computed(() => {
  const newest = new Map(props.photos.map((photo) => [photo.level!, photo]));
  return [...newest].sort(([a], [b]) => b - a).map(([level, photo]) => ({ label: reading(level, props.outcome.scale), photo }));
});
</script>

<template>
  <ul class="flex gap-2 overflow-x-auto pb-1" :aria-label="`What ${outcome.name} looks like`">
    <li v-for="one in levels" :key="one.photo.id" class="w-24 flex-none"><img :src="`/api/photos/${one.photo.id}.jpg?small=true`" :alt="`${outcome.name} ${one.label}`" class="aspect-[4/3] w-full bg-ground object-cover" loading="lazy" /><span class="block text-center font-bold">{{ one.label }}</span></li>
  </ul>
</template>
