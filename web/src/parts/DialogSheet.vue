<script setup lang="ts">
/** A sheet laid over the page; Escape closes it. */
import { Dialog, DialogPanel, DialogTitle } from "@headlessui/vue";

defineProps<{ open: boolean; title: string; wide?: boolean }>();
const emit = defineEmits<{ close: [] }>();
</script>

<template>
  <Dialog :open="open" class="relative z-40" @close="emit('close')">
    <div class="fixed inset-0 bg-panel/70" aria-hidden="true" />
    <div class="fixed inset-0 overflow-y-auto">
      <div class="flex min-h-full items-end justify-center sm:items-start sm:pt-[8dvh]">
        <DialogPanel
          class="sheet w-full border-t-[6px] border-ink p-5 sm:p-7"
          :class="wide ? 'sm:max-w-3xl' : 'sm:max-w-xl'"
        >
          <DialogTitle as="h2" class="text-[1.35rem]">{{ title }}</DialogTitle>
          <slot />
        </DialogPanel>
      </div>
    </div>
  </Dialog>
</template>
