/** The doses of a plan, worked out at the server after each edit, for the tools of the person who looks. */
import { onUnmounted, ref, watch, type Ref } from "vue";

import type { Plan } from "./usePlan";
import { answer, api, type Schemas } from "@/shell/api/client";

export type DoseTold = Schemas["DoseTold"];
const ASK_AFTER = 250;

export function useDoses(plan: Ref<Plan>) {
  const found = ref<Schemas["DosesOut"] | null>(null);
  const tools = ref<Schemas["ToolOut"][]>([]);
  let timer = 0;
  let asked = 0;
  let shown = 0;
  async function ask(): Promise<void> {
    const turn = ++asked;
    try {
      const out = await answer(api.POST("/api/doses", { body: { plan: plan.value } }));
      if (turn > shown) [found.value, shown] = [out, turn];
    } catch {
      // A plan that cannot be read yet is told about at its fields; the last answer stays.
    }
  }
  const loadTools = async () => (tools.value = (await answer(api.GET("/api/tools"))).tools);
  watch(
    plan,
    () => {
      window.clearTimeout(timer);
      timer = window.setTimeout(() => void ask(), ASK_AFTER);
    },
    { deep: true },
  );
  onUnmounted(() => window.clearTimeout(timer));
  void ask();
  void loadTools();

  const told = (dose: string): DoseTold | undefined =>
    found.value?.bench.treated.flatMap((one) => one.doses).find((one) => one.dose === dose);
  const treated = (treatment: string) =>
    found.value?.bench.treated.find((one) => one.treatment === treatment);
  const says = (at: string) => found.value?.bench.problems.find((one) => one.at === at)?.says;
  async function changeTools(change: Promise<Schemas["ToolsOut"]>): Promise<void> {
    tools.value = (await change).tools;
    await ask();
  }
  return { found, tools, told, treated, says, ask, changeTools };
}

export type DosesAtWork = ReturnType<typeof useDoses>;
