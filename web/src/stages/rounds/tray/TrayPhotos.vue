<script setup lang="ts">
/** Photos of the tray side by side; one tap chooses one. */
import { BOARD, type Dropped } from "./tray";

const chosen = defineModel<Set<string>>("chosen", { required: true });
defineProps<{ photos: Dropped[]; names: Record<string, string> }>();
function toggle(id: string): void {
  const next = new Set(chosen.value);
  if (!next.delete(id)) next.add(id);
  chosen.value = next;
}
const codeOf = (one: Dropped) => (one.code === BOARD ? "board" : one.code || "?");
</script>

<template>
  <ul class="grid grid-cols-2 gap-2 sm:grid-cols-4 lg:grid-cols-6">
    <li v-for="one in photos" :key="one.id">
      <button
        type="button"
        class="shot"
        :class="{ chosen: chosen.has(one.id) }"
        :aria-pressed="chosen.has(one.id)"
        :aria-label="`Photo of ${codeOf(one)}${one.checkpoint ? `, ${names[one.checkpoint] ?? ''}` : ''}`"
        @click="toggle(one.id)"
      >
        <img :src="`/api/tray/${one.id}.jpg?small=true`" alt="" loading="lazy" />
        <span class="flex items-baseline justify-between gap-2 px-2 py-1">
          <b class="code whitespace-nowrap" :class="{ 'text-soft': !one.code }">{{ codeOf(one) }}</b>
          <span class="truncate text-[0.9rem]">{{ one.checkpoint ? names[one.checkpoint] : "look?" }}</span>
        </span>
      </button>
    </li>
  </ul>
</template>

<style scoped>
.shot {
  display: block;
  width: 100%;
  border: 2px solid var(--line);
  background: var(--sheet);
  text-align: left;
}
.shot img {
  display: block;
  width: 100%;
  aspect-ratio: 4 / 3;
  object-fit: cover;
}
.shot.chosen {
  border-color: var(--ink);
  box-shadow: inset 0 0 0 4px var(--ink);
  background: var(--ink);
  color: var(--sheet);
}
.shot.chosen .text-soft {
  color: inherit;
}
</style>
