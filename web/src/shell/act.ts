/** Doing something on the server: busy while it runs, its sentences at their fields, all others apart. */
import { computed, ref } from "vue";

import { problemsOf, saysAt, type Problem } from "@/shell/api/problems";

export function useAct(fields: string[]) {
  const busy = ref(false);
  const problems = ref<Problem[]>([]);

  /** Run `act` once at a time and keep what was wrong with it. */
  async function through(act: () => Promise<void>): Promise<void> {
    if (busy.value) return;
    busy.value = true;
    problems.value = [];
    try {
      await act();
    } catch (error) {
      problems.value = problemsOf(error);
    } finally {
      busy.value = false;
    }
  }
  return {
    busy,
    through,
    says: (at: string) => saysAt(problems.value, at),
    other: computed(() => problems.value.find(({ at }) => !fields.some((field) => at === field || at.startsWith(`${field}.`)))?.says),
  };
}
