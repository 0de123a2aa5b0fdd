<script setup lang="ts">
/** The link of a seat: opened here, copied, or shown as a square for another phone. */
import type { Schemas } from "@/shell/api/client";

defineProps<{ who: Schemas["AssessorOut"]; copied: boolean }>();
const emit = defineEmits<{ copy: []; show: [] }>();
</script>

<template>
  <span v-if="who.link"
    ><a :href="who.link" target="_blank" rel="noopener" class="quiet inline-flex items-center">Open</a
    ><button type="button" class="quiet" @click="emit('copy')">{{ copied ? "Copied" : "Copy" }}</button
    ><button type="button" class="quiet" :aria-label="`QR code for ${who.name}`" @click="emit('show')">
      QR
    </button></span
  >
</template>
