/** Many dry runs in the background: begun, asked after, stopped when nobody waits any more. */
import { sure } from "@/parts/sure";
import { computed, onUnmounted, ref } from "vue";

import { answer, api, type Schemas } from "@/shell/api/client";
import { problemsOf } from "@/shell/api/problems";

type Rehearsal = Schemas["RehearsalOut"];
const ASK_EVERY = 700;

export function useRehearsal() {
  const rehearsal = ref<Rehearsal>();
  const lost = ref("");
  let timer = 0;
  let turn = 0;
  const running = computed(() =>
    Boolean(rehearsal.value && !rehearsal.value.result && !rehearsal.value.failed),
  );

  async function begin(body: Schemas["DryRunsIn"]): Promise<void> {
    forget();
    const mine = ++turn;
    const begun = await answer(api.POST("/api/dry-runs", { body }));
    if (mine !== turn) return;
    rehearsal.value = begun;
    ask(mine);
  }

  function ask(mine: number): void {
    timer = window.setTimeout(() => void look(mine), ASK_EVERY);
  }

  async function look(mine: number): Promise<void> {
    try {
      const now = await answer(
        api.GET("/api/dry-runs/{rehearsal_id}", {
          params: { path: { rehearsal_id: sure(rehearsal.value).id } },
        }),
      );
      if (mine !== turn) return;
      rehearsal.value = now;
      lost.value = "";
    } catch (error) {
      if (mine !== turn) return;
      lost.value = sure(problemsOf(error)[0]).says;
    }
    if (running.value) ask(mine);
  }

  /** Stop what runs, and show nothing of it any more. */
  function forget(): void {
    turn += 1;
    window.clearTimeout(timer);
    const left = rehearsal.value;
    const wasRunning = running.value;
    rehearsal.value = undefined;
    lost.value = "";
    if (left && wasRunning)
      void answer(
        api.DELETE("/api/dry-runs/{rehearsal_id}", { params: { path: { rehearsal_id: left.id } } }),
      ).catch(() => undefined);
  }
  onUnmounted(forget);

  return { rehearsal, running, lost, begin, forget };
}
