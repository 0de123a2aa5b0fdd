<script setup lang="ts">
/** The way on where words tell a treatment and are meant so. */
defineProps<{ asks: boolean; busy: boolean }>();
const emit = defineEmits<{ insist: [] }>();
</script>

<template>
  <p v-if="asks" class="mt-2">
    <button type="button" class="press press-small" :disabled="busy" @click="emit('insist')">
      Keep these words
    </button>
  </p>
</template>
