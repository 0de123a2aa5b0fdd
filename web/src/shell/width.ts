/** The width of an element in pixels, followed as it changes. */
import { onMounted, onUnmounted, ref, type Ref } from "vue";

export function useWidth(element: Ref<HTMLElement | undefined>, fallback = 640): Ref<number> {
  const width = ref(fallback);
  let watcher: ResizeObserver | undefined;
  onMounted(() => {
    if (!element.value) return;
    width.value = element.value.clientWidth || fallback;
    watcher = new ResizeObserver(([entry]) => (width.value = entry?.contentRect.width || fallback));
    watcher.observe(element.value);
  });
  onUnmounted(() => watcher?.disconnect());
  return width;
}
