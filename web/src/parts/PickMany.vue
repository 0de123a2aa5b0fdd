<script setup lang="ts">
/** Some of several things, each on or off at a press. */
const picked = defineModel<string[]>({ required: true });
defineProps<{ label: string; options: { key: string; name: string }[] }>();
function turn(key: string): void {
  picked.value = picked.value.includes(key)
    ? picked.value.filter((one) => one !== key)
    : [...picked.value, key];
}
</script>

<template>
  <div v-if="options.length" class="flex flex-wrap gap-2" role="group" :aria-label="label">
    <button
      v-for="one in options"
      :key="one.key"
      type="button"
      class="press press-small"
      :class="{ 'press-main': picked.includes(one.key) }"
      :aria-pressed="picked.includes(one.key)"
      @click="turn(one.key)"
    >
      {{ one.name }}
    </button>
  </div>
</template>
