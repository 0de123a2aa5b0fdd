<script setup lang="ts">
/** Whose clock a trial goes by, where it is not the reader's; pressed, each time is said in both. */
import { computed } from "vue";

import { bothSaid, zoneSays } from "./moments";
import { useNow } from "@/shell/now";

const props = defineProps<{ zone: string }>();
const now = useNow();
const says = computed(() => zoneSays(props.zone, now.value));
</script>

<template>
  <p v-if="says" class="no-print flex flex-wrap items-center gap-x-3 text-[0.92rem] text-soft">
    {{ says }}
    <button type="button" class="quiet" :aria-pressed="bothSaid" @click="bothSaid = !bothSaid">
      Say both times
    </button>
  </p>
</template>
