<script setup lang="ts">
/** Treatments of earlier trials, to be taken over. */
import { computed, onMounted, ref } from "vue";

import DialogSheet from "@/parts/DialogSheet.vue";
import { answer, api, type Schemas } from "@/shell/api/client";

type Earlier = Schemas["EarlierTreatment"];
const props = defineProps<{ taken: string[] }>();
const emit = defineEmits<{
  take: [one: Pick<Earlier, "name" | "kind" | "note" | "package" | "changes" | "cost">];
  close: [];
}>();
const all = ref<Earlier[]>();
const wanted = ref("");
onMounted(async () => (all.value = (await answer(api.GET("/api/treatments"))).treatments));
const shown = computed(() =>
  all.value?.filter((one) =>
    `${one.name} ${one.trial}`.toLowerCase().includes(wanted.value.trim().toLowerCase()),
  ),
);
const has = (one: Earlier) =>
  props.taken.some((name) => name.trim().toLowerCase() === one.name.trim().toLowerCase());
function take({ name, kind, note, package: whole, changes, cost }: Earlier): void {
  emit("take", { name, kind, note, package: whole, changes, cost });
}
</script>

<template>
  <DialogSheet :open="true" title="Treatments of earlier trials" wide @close="emit('close')">
    <input
      v-model="wanted"
      class="field mt-3"
      aria-label="Look for a treatment"
      placeholder="Look for a treatment"
      autocomplete="off"
    />
    <ul v-if="shown?.length" class="mt-2 max-h-[50dvh] overflow-y-auto" tabindex="0" aria-label="Treatments">
      <li v-for="one in shown" :key="one.name" class="rule flex items-center justify-between gap-4 py-1.5">
        <span
          ><b>{{ one.name }}</b
          ><span class="block text-[0.92rem] text-soft">{{ one.trial }}</span></span
        >
        <button
          type="button"
          class="press press-small flex-none"
          :disabled="has(one)"
          :aria-label="`Take ${one.name}`"
          @click="take(one)"
        >
          {{ has(one) ? "In the plan" : "Take it" }}
        </button>
      </li>
    </ul>
    <p v-else-if="shown" class="mt-4">
      {{ all!.length ? "None of that name." : "There is no earlier trial of yours yet." }}
    </p>
    <button class="press press-main mt-5" @click="emit('close')">Done</button>
  </DialogSheet>
</template>
