<script setup lang="ts">
/** A part that is folded away: its line says what is inside.  Opened, it stays in place; on paper it is open.
 */
import { onMounted, onUnmounted, ref } from "vue";

const props = defineProps<{ title: string; inside?: string; unfolded?: boolean }>();
const open = ref(props.unfolded);
/** On paper nothing can be unfolded: all of it is there. */
let before = open.value;
function unfold(): void {
  before = open.value;
  open.value = true;
}
const foldAgain = () => (open.value = before);
onMounted(() => {
  window.addEventListener("beforeprint", unfold);
  window.addEventListener("afterprint", foldAgain);
});
onUnmounted(() => {
  window.removeEventListener("beforeprint", unfold);
  window.removeEventListener("afterprint", foldAgain);
});
</script>

<template>
  <details class="fold min-w-0" :open="open" @toggle="open = ($event.target as HTMLDetailsElement).open">
    <summary class="fold-line">
      <span class="fold-mark" aria-hidden="true" />
      <span class="min-w-0">
        <b class="block text-[1.05rem]">{{ title }}</b>
        <span v-if="inside" class="block font-normal text-soft">{{ inside }}</span>
      </span>
    </summary>
    <!-- What is inside is drawn when it is first asked for. -->
    <div v-if="open" class="pt-1 pb-5"><slot /></div>
  </details>
</template>

<style scoped>
.fold {
  border-bottom: 1px solid var(--line);
}
.fold-line {
  display: flex;
  align-items: flex-start;
  gap: 0.8rem;
  min-height: 44px;
  padding: 0.6rem 0;
  cursor: pointer;
  list-style: none;
}
.fold-line::-webkit-details-marker {
  display: none;
}
/* Four strokes stand for what is folded, and a fifth lies across once it is open: as a tally is kept. */
.fold-mark {
  flex: none;
  width: 22px;
  height: 20px;
  margin-top: 0.15rem;
  background:
    linear-gradient(var(--ink), var(--ink)) 2px 2px / 2px 16px no-repeat,
    linear-gradient(var(--ink), var(--ink)) 7px 2px / 2px 16px no-repeat,
    linear-gradient(var(--ink), var(--ink)) 12px 2px / 2px 16px no-repeat,
    linear-gradient(var(--ink), var(--ink)) 17px 2px / 2px 16px no-repeat;
}
details[open] .fold-mark {
  background:
    linear-gradient(to bottom right, transparent 46%, var(--ink) 46% 54%, transparent 54%) 0 0 / 22px 20px
      no-repeat,
    linear-gradient(var(--ink), var(--ink)) 2px 2px / 2px 16px no-repeat,
    linear-gradient(var(--ink), var(--ink)) 7px 2px / 2px 16px no-repeat,
    linear-gradient(var(--ink), var(--ink)) 12px 2px / 2px 16px no-repeat,
    linear-gradient(var(--ink), var(--ink)) 17px 2px / 2px 16px no-repeat;
}
</style>
