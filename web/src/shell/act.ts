/** Doing something on the server: busy while it runs, its sentences at their fields, all others apart. */
import { computed, ref } from "vue";

import { ANYWAY, problemsOf, saysAt, type Problem } from "@/shell/api/problems";

export function useAct(fields: string[]) {
  const busy = ref(false);
  const problems = ref<Problem[]>([]);
  let last: (() => Promise<void>) | undefined;
  let insists = false;

  /** Run `act` once at a time and keep what was wrong with it. */
  async function through(act: () => Promise<void>): Promise<void> {
    if (busy.value) return;
    last = act;
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
  /** Do it all the same: the words are kept as they are. */
  async function insist(): Promise<void> {
    insists = true;
    if (last) await through(last);
    insists = false;
  }
  return {
    busy,
    insist,
    /** Whether all that is wrong is a question whether the words are meant so. */
    asks: computed(() => problems.value.length > 0 && problems.value.every((one) => one.asks)),
    /** Whether that was answered with yes; to be asked when the act begins. */
    insists: () => insists,
    /** What goes with a request whose words may be asked about. */
    said: () => (insists ? { headers: ANYWAY } : {}),
    through,
    says: (at: string) => saysAt(problems.value, at),
    other: computed(
      () =>
        problems.value.find(({ at }) => !fields.some((field) => at === field || at.startsWith(`${field}.`)))
          ?.says,
    ),
  };
}
