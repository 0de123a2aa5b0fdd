<script setup lang="ts">
/** A name that may be long: two lines of it and a sign, and all of it on demand. */
import { onBeforeUnmount, onMounted, ref, watch } from "vue";

const props = defineProps<{ text: string; as?: string }>();
const box = ref<HTMLElement>();
const whole = ref(false);
const isCut = ref(false);
const look = () => {
  if (box.value && !whole.value) isCut.value = box.value.scrollHeight > box.value.clientHeight + 2;
};
const watching = new ResizeObserver(look);
onMounted(() => {
  if (box.value) watching.observe(box.value);
});
onBeforeUnmount(() => watching.disconnect());
watch(() => props.text, look, { flush: "post" });
</script>

<template>
  <div class="min-w-0">
    <component :is="as ?? 'p'" ref="box" class="wrap-anywhere" :class="{ 'line-clamp-2': !whole }">{{
      text
    }}</component>
    <button
      v-if="isCut"
      type="button"
      class="quiet no-print -ml-2"
      :aria-expanded="whole"
      @click="whole = !whole"
    >
      {{ whole ? "Two lines of it" : "The whole name" }}
    </button>
  </div>
</template>
