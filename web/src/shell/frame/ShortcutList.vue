<script setup lang="ts">
/** The list of shortcuts, opened by “?”.  A page adds its own through shell/shortcuts. */
import { ref } from "vue";

import DialogSheet from "@/parts/DialogSheet.vue";
import { shortcuts, useKey } from "@/shell/shortcuts";

const open = ref(false);
useKey("?", "show these shortcuts", () => (open.value = !open.value));
</script>

<template>
  <DialogSheet :open="open" title="Shortcuts" @close="open = false">
    <dl class="mt-4 grid grid-cols-[auto_1fr] gap-x-5 gap-y-2">
      <template v-for="one in shortcuts" :key="one.keys + one.does">
        <dt>
          <kbd class="code border-2 border-ink px-2 py-0.5">{{ one.keys }}</kbd>
        </dt>
        <dd>{{ one.does }}</dd>
      </template>
    </dl>
    <button class="press press-main mt-6" @click="open = false">Close</button>
  </DialogSheet>
</template>
