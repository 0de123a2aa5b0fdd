/** What the forms at the door share: being busy, sentences at their fields, whether this is the demo. */
import { useQuery } from "@tanstack/vue-query";
import { computed, ref } from "vue";

import { answer, api } from "@/shell/api/client";
import { problemsOf, saysAt, type Problem } from "@/shell/api/problems";

export function useDoor(fields: string[]) {
  const busy = ref(false);
  const problems = ref<Problem[]>([]);
  const { data } = useQuery({
    queryKey: ["doorstep"],
    queryFn: () => answer(api.GET("/api/doorstep")),
    staleTime: Infinity,
  });

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
    other: computed(() => problems.value.find((problem) => !fields.includes(problem.at))?.says),
    demo: computed(() => data.value?.demo ?? false),
  };
}
