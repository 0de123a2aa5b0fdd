<script setup lang="ts">
/** A photo of a sheet of paper beside what is typed from it.  It stays on this device. */
import { onUnmounted, ref } from "vue";

/** ``off``: nothing is copied from paper, so there is nothing to put beside it. */
defineProps<{ what: string; off?: boolean }>();
const shown = defineModel<boolean>("shown");
const address = ref("");
const large = ref(false);
function putAway(): void {
  if (address.value) URL.revokeObjectURL(address.value);
  address.value = "";
  shown.value = false;
}
function take(event: Event): void {
  const input = event.target as HTMLInputElement;
  const file = input.files?.[0];
  if (!file) return;
  putAway();
  address.value = URL.createObjectURL(file);
  shown.value = true;
  input.value = "";
}
onUnmounted(putAway);
</script>

<template>
  <div :class="{ 'grid items-start gap-5 xl:grid-cols-2': address && !large }">
    <div v-if="address" class="min-w-0 xl:sticky xl:top-4" :class="{ 'mb-4': large }">
      <div class="max-h-[75dvh] overflow-auto border-2 border-line bg-ground">
        <button
          type="button"
          class="block w-full cursor-zoom-in"
          :aria-label="large ? 'Show the photo small again' : 'Show the photo larger'"
          :aria-pressed="large"
          @click="large = !large"
        >
          <img :src="address" :alt="`Photo of ${what}`" :class="large ? 'max-w-none' : 'w-full'" />
        </button>
      </div>
      <button type="button" class="quiet" @click="putAway">Put the photo away</button>
    </div>
    <div class="min-w-0">
      <label v-if="!address && !off" class="quiet relative inline-flex cursor-pointer items-center gap-2"
        ><input type="file" accept="image/*" class="sr-only" @change="take" />
        <svg viewBox="0 0 24 20" class="h-5 w-6 flex-none" aria-hidden="true">
          <path d="M2 5h5l2-3h6l2 3h5v13H2z" fill="none" stroke="currentColor" stroke-width="2" />
          <circle cx="12" cy="11" r="4" fill="none" stroke="currentColor" stroke-width="2" />
        </svg>
        Put a photo of {{ what }} beside it</label
      >
      <slot />
    </div>
  </div>
</template>
