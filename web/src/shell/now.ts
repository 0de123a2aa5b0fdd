/** The present moment, kept fresh while a page is shown. */
import { onMounted, onUnmounted, ref, type Ref } from "vue";

export function useNow(every = 30_000): Ref<Date> {
  const now = ref(new Date());
  let timer = 0;
  onMounted(() => (timer = window.setInterval(() => (now.value = new Date()), every)));
  onUnmounted(() => window.clearInterval(timer));
  return now;
}
