<script lang="ts">
export type SeatAct = "move" | "free" | "link" | "leave" | "erase";
</script>

<script setup lang="ts">
/** What the host may do with a seat. */
import type { Schemas } from "@/shell/api/client";

defineProps<{ who: Schemas["AssessorOut"]; open: boolean; fixed: boolean }>();
const emit = defineEmits<{ act: [what: SeatAct] }>();
</script>

<template>
  <span class="flex flex-wrap gap-x-1">
    <button
      v-if="open && !who.erased"
      type="button"
      class="quiet"
      :aria-label="`Move ${who.name} to another phone`"
      @click="emit('act', 'move')"
    >
      Move
    </button>
    <button v-if="who.on_a_device" type="button" class="quiet" @click="emit('act', 'free')">
      Free the link
    </button>
    <button v-if="open && !who.erased" type="button" class="quiet" @click="emit('act', 'link')">
      New link
    </button>
    <button v-if="!fixed" type="button" class="quiet" @click="emit('act', 'leave')">
      {{ who.left_out ? "Count again" : "Leave out" }}
    </button>
    <button v-if="!who.erased" type="button" class="quiet" @click="emit('act', 'erase')">Erase</button>
  </span>
</template>
