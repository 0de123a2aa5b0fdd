<script setup lang="ts">
/** What to use when: by what was wanted, by place, by time, by price, a sentence each. */
import type { Schemas } from "@/shell/api/client";

defineProps<{ uses: readonly Schemas["UseWhen"][] }>();
</script>

<template>
  <section v-if="uses.length" class="min-w-0" aria-label="What to use when">
    <h2 class="border-b-2 border-ink pb-1">What to use when</h2>
    <dl class="mt-2 grid gap-3">
      <div v-for="one in uses" :key="one.title">
        <dt class="font-bold">{{ one.title }}</dt>
        <dd v-for="says in one.says" :key="says" class="mt-0.5">{{ says }}</dd>
        <dd v-if="one.note" class="mt-0.5 text-[0.92rem] text-soft">{{ one.note }}</dd>
      </div>
    </dl>
  </section>
</template>
