<script setup lang="ts">
/** The course as a strip along the top of a phone; the stop that matters now is scrolled into view. */
import { nextTick, onMounted, ref, watch } from "vue";

import type { CourseStop } from "./course";

const props = defineProps<{ stops: CourseStop[]; here: string; label: string }>();
const strip = ref<HTMLElement>();

async function showNow(): Promise<void> {
  await nextTick();
  const row = strip.value;
  const now =
    row?.querySelector<HTMLElement>(".due, .late, .is-here") ?? row?.querySelector<HTMLElement>(".ahead");
  if (row && now) row.scrollLeft = now.offsetLeft - row.clientWidth / 2 + now.clientWidth / 2;
}
onMounted(showNow);
watch(() => [props.here, props.stops.length], showNow);
</script>

<template>
  <nav :aria-label="label">
    <ol ref="strip" class="flex overflow-x-auto px-3" tabindex="0" :aria-label="label">
      <li
        v-for="stop in stops"
        :key="stop.key"
        class="stop"
        :class="[stop.standing, { 'is-here': stop.key === here }]"
      >
        <component
          :is="stop.to ? 'RouterLink' : 'span'"
          :to="stop.to ?? undefined"
          class="name"
          :class="{ stage: stop.stage, here: stop.key === here }"
          :aria-current="stop.key === here ? 'page' : undefined"
          >{{ stop.label }}</component
        >
      </li>
    </ol>
  </nav>
</template>

<style scoped>
ol {
  scrollbar-width: none;
}
.stop {
  position: relative;
  flex: none;
  padding: 18px 12px 0;
  text-align: center;
  min-width: 62px;
}
.stop::before {
  content: "";
  position: absolute;
  left: 0;
  right: 0;
  top: 11px;
  height: 4px;
  background: var(--ink);
}
.stop::after {
  content: "";
  position: absolute;
  left: calc(50% - 3px);
  width: 6px;
  top: 1px;
  height: 24px;
  background: var(--ink);
}
.ahead::before {
  background: repeating-linear-gradient(90deg, var(--soft) 0 5px, transparent 5px 10px);
  height: 2px;
  top: 12px;
}
.ahead::after {
  background: var(--line);
}
.due::after,
.late::after {
  background: var(--color-due);
  width: 12px;
  left: calc(50% - 6px);
}
.missed::after {
  background: var(--ground);
  border: 2px solid var(--soft);
}
.name {
  display: inline-flex;
  align-items: center;
  justify-content: center;
  min-width: 44px;
  min-height: 44px;
  white-space: nowrap;
  text-decoration: none;
  font-size: 0.95rem;
}
.stage {
  font-weight: 700;
}
.here {
  text-decoration: underline;
  text-decoration-thickness: 3px;
  text-underline-offset: 5px;
}
.ahead .name {
  color: var(--soft);
}
</style>
