<script setup lang="ts">
/** A sentence with each treatment's name in its hue, and its letter beside it. */
import { computed } from "vue";

import type { Schemas } from "@/shell/api/client";

const props = defineProps<{ text: string; treatments: Schemas["TreatmentOut"][] }>();
const escaped = (text: string) => text.replace(/[.*+?^${}()|[\]\\]/g, "\\$&");
const pieces = computed(() => {
  const names = props.treatments.map((one) => one.name).sort((a, b) => b.length - a.length);
  return props.text.split(new RegExp(`(${names.map(escaped).join("|")})`)).map((text) => ({
    text,
    at: props.treatments.findIndex((one) => one.name === text),
  }));
});
</script>

<template>
  <template v-for="(piece, i) in pieces" :key="i">
    <span v-if="piece.at >= 0" :data-hue="piece.at % 8" class="text-(--hue)">{{ piece.text }}</span>
    <template v-else>{{ piece.text }}</template>
  </template>
</template>
