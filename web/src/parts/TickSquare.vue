<script setup lang="ts">
/** A square to tick by hand: empty and pressed while something is to be done, ticked once it is. */
defineProps<{ done: boolean; may: boolean; label: string; busy?: boolean }>();
const emit = defineEmits<{ tick: [] }>();
</script>

<template>
  <button
    v-if="!done && may"
    type="button"
    class="grid h-12 w-12 flex-none place-items-center"
    :aria-label="label"
    :disabled="busy"
    @click="emit('tick')"
  >
    <i class="block h-7 w-7 border-[3px] border-ink" />
  </button>
  <svg
    v-else
    viewBox="0 0 48 48"
    class="h-12 w-12 flex-none"
    role="img"
    :aria-label="done ? 'ticked' : 'not ticked'"
  >
    <rect x="10" y="10" width="28" height="28" fill="none" stroke="currentColor" stroke-width="3" />
    <path v-if="done" d="m15 25 7 7 14-18" fill="none" stroke="currentColor" stroke-width="5" />
  </svg>
</template>
