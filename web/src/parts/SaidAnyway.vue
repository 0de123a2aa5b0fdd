<script setup lang="ts">
/** The way on where words tell a treatment and are meant so. */
defineProps<{ asks: boolean; busy: boolean; inline?: boolean }>();
const emit = defineEmits<{ insist: [] }>();
</script>

<template>
  <span v-if="asks" :class="inline ? '' : 'mt-2 block'">
    <button type="button" class="press press-small" :disabled="busy" @click="emit('insist')">
      Keep these words
    </button>
  </span>
</template>
