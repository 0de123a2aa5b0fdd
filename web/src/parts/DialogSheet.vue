<script setup lang="ts">
/** A sheet laid over the page; Escape closes it. */
import { Dialog, DialogPanel, DialogTitle } from "@headlessui/vue";
import { onBeforeUnmount, watch } from "vue";

import { headingIn, rest } from "@/shell/arrival";

const props = defineProps<{ open: boolean; title: string; wide?: boolean }>();
const emit = defineEmits<{ close: [] }>();
let opener: Element | null = null;
/** The focus goes back to what opened the sheet, or to the page's heading where that is gone. */
function giveBack(): void {
  const to = opener;
  opener = null;
  if (!to) return;
  window.setTimeout(() => {
    if (document.activeElement && document.activeElement !== document.body) return;
    if (document.querySelector("[role=dialog]")) return;
    const back = to instanceof HTMLElement && to.isConnected && to !== document.body ? to : headingIn();
    if (back) rest(back);
  }, 60);
}
watch(
  () => props.open,
  (open) => {
    if (open) opener = document.activeElement;
    else giveBack();
  },
  { immediate: true, flush: "sync" },
);
onBeforeUnmount(giveBack);
</script>

<template>
  <!-- Only while it is open: one that is closed would take the focus as the page around it comes. -->
  <Dialog v-if="open" open class="relative z-40" @close="emit('close')">
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
