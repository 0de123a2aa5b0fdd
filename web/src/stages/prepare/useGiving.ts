/** The application log at work: what was noted is shown at once, and sent again until the server has it. */
import { onUnmounted, ref } from "vue";

import { answer, api, type Schemas } from "@/shell/api/client";
import { Unreachable } from "@/shell/api/problems";
import { useAct } from "@/shell/act";
import { trialChanged } from "@/shell/query";

const AGAIN_AFTER = 3_000;

export function useGiving(trial: string) {
  const path = { trial_id: trial };
  const rows = ref<Schemas["Handed"][]>();
  const covered = ref(false);
  const reached = ref(true);
  const { busy, other, through } = useAct([]);
  let timer = 0;
  let gone = false;
  onUnmounted(() => {
    gone = true;
    window.clearTimeout(timer);
  });

  function show(out: Schemas["Handout"]): void {
    rows.value = out.rows;
    covered.value = out.covered;
  }
  const look = () =>
    through(async () => {
      show(await answer(api.POST("/api/trials/{trial_id}/key-looks", { params: { path } })));
      await trialChanged(trial, ["log", "course"]);
    });

  /** Note what was given; each entry has an id made here, so that sending it twice stores it once. */
  async function give(entries: Schemas["EntryIn"][], at: Date | null): Promise<void> {
    const body = { entries, at: (at ?? new Date()).toISOString() };
    busy.value = true;
    try {
      show(await answer(api.POST("/api/trials/{trial_id}/applications", { params: { path }, body })));
      reached.value = true;
      await trialChanged(trial, ["prepared", "log"]);
    } catch (error) {
      if (!(error instanceof Unreachable)) throw error;
      reached.value = false;
      await new Promise((resolve) => (timer = window.setTimeout(resolve, AGAIN_AFTER)));
      if (!gone) await give(entries, at ?? new Date(body.at));
    } finally {
      busy.value = false;
    }
  }
  return { rows, covered, reached, busy, other, look, give };
}
