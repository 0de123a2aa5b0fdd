/** The plan at work: the draft saves itself, problems stand at their fields, and what the design can tell follows each
 * edit. */
import { computed, onUnmounted, ref, watch } from "vue";

import { answer, api, type Schemas } from "@/shell/api/client";
import { Declined, problemsOf, saysAt, type Problem } from "@/shell/api/problems";
import { trialChanged } from "@/shell/query";

export type Plan = Schemas["Plan"];
export type Treatment = Schemas["Treatment"];
export type Outcome = Schemas["Outcome"];
export type Checkpoint = Schemas["Checkpoint"];
export type Outlook = Schemas["Outlook"];

const SAVE_AFTER = 600;
const ASK_AFTER = 200;
const copy = <T>(value: T): T => JSON.parse(JSON.stringify(value)) as T;
const read = (value: unknown, at: string): unknown =>
  at.split(".").reduce<unknown>((part, name) => (part as Record<string, unknown> | undefined)?.[name], value);

export const newKey = () => crypto.randomUUID().slice(0, 8);

export function usePlan(trial: string) {
  const plan = ref<Plan>();
  const saved = ref<Schemas["PlanOut"]>();
  const savedAt = ref<Date>();
  const saving = ref(false);
  const failed = ref("");
  const conflict = ref(false);
  const tried = ref(false);
  const outlook = ref<Outlook | null>(null);
  const asking = ref(false);
  const seen = ref<Problem[]>([]);
  let loaded: Plan | undefined;
  let saveTimer = 0;
  let askTimer = 0;
  let asked = 0;
  let underWay: Promise<void> | undefined;

  async function load(): Promise<void> {
    const out = await answer(api.GET("/api/trials/{trial_id}/plan", { params: { path: { trial_id: trial } } }));
    take(out);
    plan.value = copy(out.plan);
    loaded = copy(out.plan);
    savedAt.value = new Date(out.saved_at);
    conflict.value = false;
    failed.value = "";
    await ask();
  }

  function take(out: Schemas["PlanOut"]): void {
    saved.value = out;
    seen.value = out.problems;
  }

  /** Save what has changed, one request at a time; resolves once all that is typed by now is kept or refused. */
  async function save(): Promise<void> {
    window.clearTimeout(saveTimer);
    while (underWay) await underWay;
    underWay = saveOnce().finally(() => (underWay = undefined));
    await underWay;
  }

  async function saveOnce(): Promise<void> {
    if (!plan.value || !saved.value?.may_edit || conflict.value) return;
    const sent = JSON.stringify(plan.value);
    if (sent === JSON.stringify(saved.value.plan)) return;
    saving.value = true;
    try {
      take(
        await answer(
          api.PUT("/api/trials/{trial_id}/plan", {
            params: { path: { trial_id: trial } },
            body: { plan: JSON.parse(sent) as Plan, version: saved.value.version },
          }),
        ),
      );
      savedAt.value = new Date();
      failed.value = "";
    } catch (error) {
      conflict.value = error instanceof Declined && error.status === 409;
      failed.value = problemsOf(error)[0]!.says;
      if (error instanceof Declined && error.status === 422) seen.value = error.problems;
    } finally {
      saving.value = false;
    }
  }

  async function ask(): Promise<void> {
    const turn = ++asked;
    asking.value = true;
    try {
      const { outlook: found } = await answer(api.POST("/api/outlook", { body: { plan: plan.value! } }));
      if (turn === asked) outlook.value = found;
    } catch {
      if (turn === asked) outlook.value = null;
    } finally {
      if (turn === asked) asking.value = false;
    }
  }

  watch(
    plan,
    () => {
      if (!saved.value?.may_edit) return;
      window.clearTimeout(saveTimer);
      window.clearTimeout(askTimer);
      saveTimer = window.setTimeout(() => void save(), SAVE_AFTER);
      askTimer = window.setTimeout(() => void ask(), ASK_AFTER);
    },
    { deep: true },
  );
  onUnmounted(() => {
    window.clearTimeout(askTimer);
    void save().then(() => trialChanged(trial));
  });

  /** The sentence at a field: once it was changed here, or once sealing was tried. */
  function says(at: string): string | undefined {
    const found = saysAt(seen.value, at);
    if (!found) return undefined;
    const now = JSON.stringify(read(plan.value, at));
    // What was said about an older text is no longer true.
    if (now !== JSON.stringify(read(saved.value?.plan, at)) && !failed.value) return undefined;
    return tried.value || JSON.stringify(read(loaded, at)) !== now ? found : undefined;
  }
  const leak = (at: string) => saved.value?.leaks.find((one) => one.at === at)?.says;

  const words = computed(() => {
    if (saved.value?.sealed) return "Sealed";
    if (failed.value) return failed.value;
    return saving.value ? "Keeping…" : "";
  });

  return {
    plan, saved, savedAt, load, save, says, leak, words, failed, conflict, tried, outlook, asking,
    problems: computed(() => seen.value),
  };
}

export type PlanAtWork = ReturnType<typeof usePlan>;
