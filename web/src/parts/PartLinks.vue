<script setup lang="ts">
/** The parts of a stage, one beside the other, each with how much of it is still open. */
import type { RouteLocationRaw } from "vue-router";

defineProps<{
  label: string;
  here: string;
  parts: { key: string; name: string; to: RouteLocationRaw; open?: number }[];
}>();
</script>

<template>
  <nav class="parts no-print" :class="{ many: parts.length > 6 }" :aria-label="label">
    <RouterLink
      v-for="one in parts"
      :key="one.key"
      :to="one.to"
      class="part"
      :class="{ here: here === one.key }"
      :aria-current="here === one.key ? 'step' : undefined"
    >
      {{ one.name
      }}<span v-if="one.open" class="count" :aria-label="`, ${one.open} open`">{{ one.open }}</span>
    </RouterLink>
  </nav>
</template>

<style scoped>
.parts {
  display: flex;
  flex-wrap: wrap;
  border-bottom: 2px solid var(--ink);
}
/* So many parts take two even rows where they do not fit into one: none stands alone. */
@media (min-width: 640px) and (max-width: 1499px) {
  .many {
    display: grid;
    grid-template-columns: repeat(5, auto);
  }
}
.part {
  position: relative;
  display: inline-flex;
  align-items: center;
  gap: 0.35rem;
  min-width: 44px;
  min-height: 44px;
  padding: 0 0.35rem 0 0;
  margin-right: 0.35rem;
  text-decoration: none;
  font-size: 0.94rem;
}
.part:hover {
  text-decoration: underline;
}
.here {
  font-weight: 700;
  box-shadow: inset 0 -6px 0 var(--ink);
}
.count {
  min-width: 1.35rem;
  height: 1.35rem;
  display: inline-grid;
  place-items: center;
  border: 1.5px solid var(--ink);
  font-size: 0.8rem;
  font-weight: 700;
}
</style>
