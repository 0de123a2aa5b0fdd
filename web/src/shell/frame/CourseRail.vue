<script setup lang="ts">
/** The course at the side of a wide screen. */
import type { CourseStop } from "./course";

defineProps<{ stops: CourseStop[]; here: string; label: string }>();
</script>

<template>
  <nav :aria-label="label">
    <ol>
      <li
        v-for="(stop, i) in stops"
        :key="stop.key"
        class="stop"
        :class="[stop.standing, { first: i === 0 }]"
        :style="{ height: `${i === 0 ? 44 : stop.gap}px` }"
      >
        <span v-if="stop.folded" class="fold" aria-hidden="true" />
        <component
          :is="stop.to ? 'RouterLink' : 'span'"
          :to="stop.to ?? undefined"
          class="name"
          :class="{ stage: stop.stage, here: stop.key === here }"
          :aria-current="stop.key === here ? 'page' : undefined"
        >
          {{ stop.label }}<span v-if="stop.words" class="words">, {{ stop.words }}</span>
        </component>
      </li>
    </ol>
  </nav>
</template>

<style scoped>
.stop {
  position: relative;
  display: flex;
  align-items: flex-end;
  padding-left: 38px;
}
.stop::before {
  content: "";
  position: absolute;
  left: 14px;
  top: -12px;
  bottom: 12px;
  width: 4px;
  background: var(--ink);
}
.first::before {
  top: 20px;
}
.stop::after {
  content: "";
  position: absolute;
  left: 4px;
  width: 24px;
  height: 6px;
  bottom: 12px;
  background: var(--ink);
}
.ahead::before {
  background: repeating-linear-gradient(var(--soft) 0 5px, transparent 5px 10px);
  width: 2px;
  left: 15px;
}
.ahead::after {
  background: var(--line);
}
.due::after,
.late::after {
  background: var(--color-due);
  height: 10px;
  bottom: 10px;
  left: -6px;
  width: 36px;
}
.late::after {
  height: 6px;
  bottom: 12px;
}
.missed::after {
  background: none;
  border: 2px solid var(--soft);
}
.fold {
  position: absolute;
  left: 4px;
  top: calc(50% - 16px);
  width: 24px;
  height: 12px;
  background: var(--ground);
}
.fold::after {
  content: "";
  position: absolute;
  inset: 4px 0;
  background: var(--soft);
  transform: rotate(-24deg);
  height: 3px;
}
.name {
  line-height: 1.15;
  min-height: 30px;
  display: block;
  padding: 5px 0;
  text-decoration: none;
  font-size: 0.95rem;
}
a.name:hover {
  text-decoration: underline;
}
.stage {
  font-weight: 700;
  font-size: 1.02rem;
}
.here {
  text-decoration: underline;
  text-decoration-thickness: 3px;
  text-underline-offset: 4px;
}
.ahead .name {
  color: var(--soft);
}
.due .name,
.late .name {
  font-weight: 700;
}
.words {
  font-weight: 400;
}
</style>
