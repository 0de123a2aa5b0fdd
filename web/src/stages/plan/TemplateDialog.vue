<script setup lang="ts">
/** Common sets of scales, to begin with. */
import { onMounted, ref } from "vue";

import DialogSheet from "@/parts/DialogSheet.vue";
import { scaleWords } from "@/parts/amounts";
import { answer, api, type Schemas } from "@/shell/api/client";

const emit = defineEmits<{ take: [template: Schemas["Template"]]; close: [] }>();
const templates = ref<Schemas["Template"][]>([]);
onMounted(async () => (templates.value = (await answer(api.GET("/api/scales"))).templates));
</script>

<template>
  <DialogSheet :open="true" title="Scales to begin with" wide @close="emit('close')">
    <ul
      class="mt-3 grid max-h-[60dvh] gap-2 overflow-y-auto sm:grid-cols-2"
      tabindex="0"
      aria-label="Templates"
    >
      <li v-for="one in templates" :key="one.key">
        <button
          type="button"
          class="h-full w-full border-2 border-line p-3 text-left hover:border-ink"
          @click="emit('take', one)"
        >
          <b>{{ one.name }}</b><span class="block text-[0.92rem] text-soft">{{ one.serves }}</span>
          <span class="block text-[0.92rem]">{{
            one.attributes.map((part) => `${part.name}: ${scaleWords(part.scale)}`).join("; ")
          }}</span>
        </button>
      </li>
    </ul>
    <button class="press mt-5" @click="emit('close')">None of these</button>
  </DialogSheet>
</template>
