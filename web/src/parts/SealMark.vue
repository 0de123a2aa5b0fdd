<script setup lang="ts">
/** The seal of a trial: when it was set or the key opened, and the beginning of its fingerprint. */
import { computed } from "vue";

import { moment } from "./moments";
import type { Schemas } from "@/shell/api/client";

const props = defineProps<{ course: Schemas["CourseOut"] }>();
const groups = computed(() => (props.course.seal.slice(0, 12).match(/.{4}/g) ?? []).join(" "));
</script>

<template>
  <p class="flex items-center gap-3 border-2 border-ink px-4 py-1.5" :title="`SHA-256 ${course.seal}`">
    <svg viewBox="0 0 20 26" class="h-7 w-5" aria-hidden="true">
      <circle cx="10" cy="8" r="6.5" fill="none" stroke="currentColor" stroke-width="2.6" />
      <path d="m5 14-2 11 7-4 7 4-2-11" />
    </svg>
    <span class="text-[0.88rem] leading-snug">
      <b>{{ course.opened_at ? "Key opened" : "Key sealed" }}</b>
      {{ moment(course.opened_at ?? course.sealed_at!, course.zone) }}<br />
      <span class="code font-normal">{{ groups }}</span>
    </span>
  </p>
</template>

<style scoped>
path {
  fill: currentColor;
}
</style>
