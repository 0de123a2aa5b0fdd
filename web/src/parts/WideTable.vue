<script setup lang="ts">
/** Around a table: never wider than the page.
 *
 * Where it would be, its rows are stacked on a phone, each value beside the head of its column; on a wider
 * screen it scrolls by itself, and its first column stands.
 */
import { onBeforeUnmount, onMounted, onUpdated, ref } from "vue";

import { headed } from "./wideTable";

const props = withDefaults(defineProps<{ label?: string; stack?: boolean }>(), { label: "", stack: true });
const NARROW = 640;
const box = ref<HTMLElement>();
/** Whether it scrolls by itself, and whether its first column stands meanwhile. */
const scrolls = ref(false);
const stands = ref(false);
const named = ref("");
const watching = new ResizeObserver(() => fit());
let fitted = -1;

function fit(again = false): void {
  const table = box.value?.querySelector("table");
  if (!box.value || !table || (!again && fitted === box.value.clientWidth)) return;
  fitted = box.value.clientWidth;
  named.value =
    props.label || table.getAttribute("aria-label") || table.caption?.textContent.trim() || "Table";
  const overflows = () => box.value !== undefined && box.value.scrollWidth > box.value.clientWidth + 1;
  table.classList.remove("stacked");
  const stacked = overflows() && props.stack && fitted > 0 && fitted < NARROW;
  if (stacked) headed(table);
  table.classList.toggle("stacked", stacked);
  scrolls.value = overflows();
  stands.value = scrolls.value && !stacked;
}
onMounted(() => {
  fit();
  if (box.value) watching.observe(box.value);
});
onUpdated(() => fit(true));
onBeforeUnmount(() => watching.disconnect());
</script>

<template>
  <div
    ref="box"
    class="max-w-full overflow-x-auto"
    :class="{ stands }"
    :tabindex="scrolls ? 0 : undefined"
    :role="label ? 'region' : scrolls ? 'group' : undefined"
    :aria-label="label || (scrolls ? `${named}, scrolls sideways` : undefined)"
  >
    <slot />
  </div>
</template>
