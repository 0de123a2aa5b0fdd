<script setup lang="ts">
/** The list of shortcuts, opened by “?”, or by Ctrl and “/” also while somebody types.  A page adds its own
 * through shell/shortcuts; here they are given other keys, and switched off. */
import { onMounted, onUnmounted, ref, watch } from "vue";

import DialogSheet from "@/parts/DialogSheet.vue";
import ProblemText from "@/parts/ProblemText.vue";
import {
  areChanged,
  changeKey,
  isListed,
  keyOf,
  keysAsFirst,
  keysOff,
  shortcuts,
  useKey,
  useListed,
  type Shortcut,
} from "@/shell/shortcuts";

useKey("?", "show these shortcuts", () => (isListed.value = true));
useListed([{ keys: "Ctrl /", does: "show these shortcuts, also while typing" }]);
/** Which one waits for its new key. */
const changing = ref("");
const says = ref("");
watch(isListed, () => {
  changing.value = "";
  says.value = "";
});
const NAMES: Record<string, string> = {
  ArrowLeft: "←",
  ArrowRight: "→",
  ArrowUp: "↑",
  ArrowDown: "↓",
  " ": "Space",
};
const shown = (one: Shortcut) => NAMES[keyOf(one)] ?? keyOf(one);
function begin(one: Shortcut): void {
  changing.value = one.does;
  says.value = "";
}
function heard(event: KeyboardEvent): void {
  if (event.key === "/" && (event.ctrlKey || event.metaKey)) {
    event.preventDefault();
    isListed.value = true;
    return;
  }
  const one = shortcuts.find((each) => each.does === changing.value);
  if (!isListed.value || !one || ["Shift", "Control", "Alt", "Meta", "AltGraph"].includes(event.key)) return;
  // The next key is the new one; Escape and Tab leave it as it was.
  changing.value = "";
  if (event.key === "Tab") return;
  event.preventDefault();
  event.stopPropagation();
  if (event.key !== "Escape") says.value = changeKey(one, event.key);
}
onMounted(() => window.addEventListener("keydown", heard, { capture: true }));
onUnmounted(() => window.removeEventListener("keydown", heard, { capture: true }));
</script>

<template>
  <DialogSheet :open="isListed" title="Shortcuts" @close="isListed = false">
    <label class="mt-3 flex min-h-11 items-center gap-3"
      ><input v-model="keysOff" type="checkbox" class="h-6 w-6 flex-none accent-ink" /> Switch off all that
      are one key alone</label
    >
    <dl class="mt-2 grid" aria-label="Keys">
      <div
        v-for="one in shortcuts"
        :key="one.keys + one.does"
        class="rule grid min-h-11 grid-cols-[6rem_1fr_auto] items-center gap-x-4"
      >
        <dt>
          <kbd
            class="code border-2 border-ink px-2 py-0.5"
            :class="{ 'line-through': keysOff && !one.fixed }"
            >{{ changing === one.does ? "…" : shown(one) }}</kbd
          >
        </dt>
        <dd>{{ one.does }}</dd>
        <dd>
          <button
            v-if="!one.fixed"
            type="button"
            class="quiet"
            :aria-label="`Another key: ${one.does}`"
            @click="begin(one)"
          >
            {{ changing === one.does ? "Press the key" : "Another key" }}
          </button>
        </dd>
      </div>
    </dl>
    <p class="sr-only" aria-live="polite">{{ changing ? "Press the new key; Escape leaves it." : "" }}</p>
    <ProblemText :says="says" />
    <p class="mt-2 text-soft">Kept on this device.</p>
    <div class="mt-4 flex flex-wrap gap-3">
      <button class="press press-main" @click="isListed = false">Close</button>
      <button v-if="areChanged" type="button" class="press" @click="keysAsFirst">All as at first</button>
    </div>
  </DialogSheet>
</template>
