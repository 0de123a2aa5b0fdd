/** What waits on this device for a trial, as it changes. */
import { computed, onMounted, onUnmounted, ref, toValue, watch, type MaybeRefOrGetter } from "vue";

import { onSettled, waitingFor, type Waiting } from "./outbox";
import { useMe } from "./query";

export function useWaiting(trial: MaybeRefOrGetter<string>) {
  const { data: me } = useMe();
  const rows = ref<Waiting[]>([]);
  async function look(): Promise<void> {
    if (me.value) rows.value = (await waitingFor(me.value.id)).filter((row) => row.trial === toValue(trial));
  }
  const stop = onSettled(() => void look());
  onMounted(look);
  onUnmounted(stop);
  watch([me, () => toValue(trial)], () => void look());
  return {
    look,
    waiting: computed(() => rows.value.filter((row) => !row.refused)),
    refused: computed(() => rows.value.filter((row) => row.refused)),
  };
}
