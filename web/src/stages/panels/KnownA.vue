<script setup lang="ts">
/** A by its name, before it is asked whether something is A. */
import { computed, ref } from "vue";

import CupMedia from "./CupMedia.vue";
import type { Booth } from "./booth";

const props = defineProps<{ booth: Booth; over: string; load: () => Promise<Blob> }>();
const emit = defineEmits<{ known: [] }>();
const heard = ref(false);
const ready = computed(() => props.booth.material !== "sounds" || heard.value);
</script>

<template>
  <section class="flex grow flex-col">
    <p v-if="over" class="mt-3 text-[1.15rem] font-bold">{{ over }}</p>
    <h1 class="mt-3">This is A.</h1>
    <p class="mt-2 text-[1.1rem]">
      {{
        {
          cups: "The host gives you a cup marked A. Taste it, and remember it; then you are asked of others whether they are A.",
          sounds: "Listen to it, and remember it; then you are asked of others whether they are A.",
          pictures: "Look at it, and remember it; then you are asked of others whether they are A.",
        }[booth.material]
      }}
    </p>
    <CupMedia
      v-if="booth.material !== 'cups'"
      :material="booth.material"
      :names="['A']"
      :load="() => load()"
      @heard="heard = true"
    />
    <div class="mt-auto pt-6">
      <p v-if="!ready" class="mb-2" role="status">Listen to it at least once.</p>
      <button
        type="button"
        class="press press-main min-h-[64px] w-full text-[1.15rem]"
        :disabled="!ready"
        @click="emit('known')"
      >
        I know A now
      </button>
    </div>
  </section>
</template>
