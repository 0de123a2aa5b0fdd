/** Whether a page waits for its first answer.  What is shown and only looked at anew keeps nobody waiting. */
import { useIsFetching } from "@tanstack/vue-query";
import { computed, onScopeDispose, ref, watch } from "vue";

/** A step that is shorter shows nothing. */
export const QUIET = 300;

const under = ref(0);

/** A first load that is no query: counted as long as it takes. */
export async function patiently<T>(load: Promise<T>): Promise<T> {
  under.value += 1;
  try {
    return await load;
  } finally {
    under.value -= 1;
  }
}

/** Whether something that a page shows has been on its way for longer than a moment. */
export function useLongWait() {
  const pending = useIsFetching({ predicate: (query) => query.state.data === undefined });
  const waits = computed(() => pending.value + under.value > 0);
  const long = ref(false);
  let timer = 0;
  watch(
    waits,
    (now) => {
      window.clearTimeout(timer);
      if (now) timer = window.setTimeout(() => (long.value = true), QUIET);
      else long.value = false;
    },
    { immediate: true },
  );
  onScopeDispose(() => window.clearTimeout(timer));
  return long;
}
