/** The photo gauge on one photo: a recipe and marks, tried again a moment after each change. */
import { computed, ref, watch, type Ref } from "vue";

import { answer, api, type Schemas } from "@/shell/api/client";
import { problemsOf, type Problem } from "@/shell/api/problems";
import type { Marks } from "./marking";

export type Recipe = Schemas["Recipe"];
export type Tried = Schemas["TriedOut"];
const AFTER = 250;

export const plainRecipe = (measure: Recipe["measure"]): Recipe => ({
  measure,
  outline: "stands_out",
  counts: [],
  ignores: [],
  tolerance: null,
  smallest: 0.05,
  steps: [],
  since_look: "",
  since_sample: "",
});
export const plainMarks = (): Marks => ({
  thing: {
    kind: "ellipse",
    points: [
      [0.38, 0.15],
      [0.82, 0.7],
    ],
  },
  reference: "card",
  area: null,
  length: null,
});

export function useGauge(trial: string, photo: Ref<string>, outcome: Ref<string>) {
  const recipe = ref<Recipe>(plainRecipe("cover"));
  const marks = ref<Marks>(plainMarks());
  const tried = ref<Tried>();
  const problems = ref<Problem[]>([]);
  const busy = ref(false);
  let timer = 0;
  let turn = 0;

  async function attempt(): Promise<void> {
    const mine = ++turn;
    busy.value = true;
    try {
      const path = { trial_id: trial };
      const body = { photo: photo.value, outcome: outcome.value, recipe: recipe.value, marks: marks.value };
      const found = await answer(api.POST("/api/trials/{trial_id}/gauge/try", { params: { path }, body }));
      if (mine !== turn) return;
      tried.value = found;
      problems.value = [];
    } catch (error) {
      if (mine !== turn) return;
      tried.value = undefined;
      problems.value = problemsOf(error);
    } finally {
      if (mine === turn) busy.value = false;
    }
  }
  watch(
    [recipe, marks, photo, outcome],
    () => {
      window.clearTimeout(timer);
      turn += 1;
      if (photo.value && outcome.value) timer = window.setTimeout(() => void attempt(), AFTER);
    },
    { deep: true },
  );
  /** The colour under a point, in daylight. */
  const pick = (x: number, y: number) =>
    answer(
      api.POST("/api/trials/{trial_id}/gauge/pick", {
        params: { path: { trial_id: trial } },
        body: { photo: photo.value, marks: marks.value, x, y },
      }),
    );

  const refused = computed(() => tried.value?.flags.some((flag) => flag.refuses) ?? false);
  return { recipe, marks, tried, problems, busy, refused, attempt, pick };
}
