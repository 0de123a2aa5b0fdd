<script setup lang="ts">
/** The button that takes an entry out of a list. */
defineProps<{ what: string }>();
const emit = defineEmits<{ out: [] }>();
</script>

<template>
  <button
    type="button"
    class="grid h-[46px] w-11 flex-none place-items-center text-[1.4rem]"
    :aria-label="`Take out ${what}`"
    @click="emit('out')"
  >
    ×
  </button>
</template>
