<script setup lang="ts">
/** Hazards found in the words of the plan: what is usual with each, and what must not meet. */
import type { Schemas } from "@/shell/api/client";

defineProps<{ cautions: Schemas["Caution"][]; clashes: Schemas["Clash"][] }>();
</script>

<template>
  <div v-if="cautions.length || clashes.length" class="mt-3 border-2 border-hazard">
    <div class="hatch h-3" aria-hidden="true" />
    <ul class="grid gap-2 p-3" aria-label="Cautions">
      <li v-for="one in clashes" :key="one.first + one.second + one.says" role="alert" class="font-bold">
        {{ one.says }}
      </li>
      <li v-for="one in cautions" :key="one.key">
        <b>{{ one.name.charAt(0).toUpperCase() + one.name.slice(1) }}</b> ({{ one.found.join(", ") }}):
        {{ one.usual.join(" ") }}
      </li>
    </ul>
  </div>
</template>

<style scoped>
.hatch {
  background: repeating-linear-gradient(135deg, var(--hazard) 0 8px, transparent 8px 16px);
}
</style>
