/** Whether the screen is wide enough for a desk. */
import { onMounted, onUnmounted, ref, type Ref } from "vue";

export function useWide(): Ref<boolean> {
  const query = window.matchMedia("(min-width: 900px)");
  const wide = ref(query.matches);
  const listen = () => (wide.value = query.matches);
  onMounted(() => query.addEventListener("change", listen));
  onUnmounted(() => query.removeEventListener("change", listen));
  return wide;
}
