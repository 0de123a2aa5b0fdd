<script setup lang="ts">
/** Common sets of scales, to begin with. */
import { onMounted, ref } from "vue";

import DialogSheet from "@/parts/DialogSheet.vue";
import ProblemText from "@/parts/ProblemText.vue";
import TakeOut from "@/parts/TakeOut.vue";
import { scaleWords } from "@/parts/amounts";
import { useAct } from "@/shell/act";
import { answer, api, type Schemas } from "@/shell/api/client";

const emit = defineEmits<{ take: [template: Schemas["Template"]]; close: [] }>();
const found = ref<Schemas["ScalesOut"]>({ templates: [], mine: [] });
const { other, through } = useAct([]);
onMounted(async () => (found.value = await answer(api.GET("/api/scales"))));
const drop = (key: string) =>
  through(async () => {
    const thing_id = Number(key.replace("shared-", ""));
    await answer(api.DELETE("/api/scales/shared/{thing_id}", { params: { path: { thing_id } } }));
    found.value.templates = found.value.templates.filter((one) => one.key !== key);
  });
</script>

<template>
  <DialogSheet :open="true" title="Scales to begin with" wide @close="emit('close')">
    <ul
      class="mt-3 grid max-h-[60dvh] gap-2 overflow-y-auto sm:grid-cols-2"
      tabindex="0"
      aria-label="Templates"
    >
      <li v-for="one in found.templates" :key="one.key" class="flex">
        <button
          type="button"
          class="h-full w-full min-w-0 border-2 border-line p-3 text-left hover:border-ink"
          @click="emit('take', one)"
        >
          <b>{{ one.name }}</b><span class="block text-[0.92rem] text-soft">{{ one.serves }}</span>
          <span class="block text-[0.92rem]">{{
            one.attributes.map((part) => `${part.name}: ${scaleWords(part.scale)}`).join("; ")
          }}</span>
        </button>
        <TakeOut v-if="found.mine.includes(one.key)" :what="one.name" @out="drop(one.key)" />
      </li>
    </ul>
    <ProblemText :says="other" />
    <button class="press mt-5" @click="emit('close')">None of these</button>
  </DialogSheet>
</template>
