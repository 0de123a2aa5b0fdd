/** The plan at work: the draft saves itself, others' changes come in, problems stand at their fields, and
 * what the design
 * can tell follows each edit.  A sealed plan is amended on a copy that is not saved until it is given a
 * reason.
 */
import { sure } from "@/parts/sure";
import { computed, onMounted, onUnmounted, ref, watch } from "vue";

import { forgetDraft, keepDraft, keptDraft } from "./keptDraft";
import { merged, differing, type Clash } from "./merge";
import { partOf, type PartKey } from "./planParts";
import { answer, api, type Schemas } from "@/shell/api/client";
import { Declined, problemsOf, saysAt, type Problem } from "@/shell/api/problems";
import { SAMPLE } from "@/parts/nouns";
import { patiently } from "@/shell/patience";
import { trialChanged } from "@/shell/query";

export type Plan = Schemas["Plan"];
export type Outlook = Schemas["Outlook"];

const SAVE_AFTER = 600;
const A_STEP_AFTER = 400;
const MOST_STEPS = 100;
const ASK_AFTER = 200;
const LOOK_AROUND_EVERY = 4_000;
const FIRST_RETRY = 2_000;
const LONGEST_RETRY = 60_000;
const ON_DEVICE = "What you type is kept on this device and sent by itself.";
const copy = <T>(value: T): T => JSON.parse(JSON.stringify(value)) as T;
const read = (value: unknown, at: string): unknown =>
  at.split(".").reduce<unknown>((part, name) => (part as Record<string, unknown> | undefined)?.[name], value);

export function usePlan(trial: string) {
  const plan = ref<Plan>();
  const saved = ref<Schemas["PlanOut"]>();
  const savedAt = ref<Date>();
  const saving = ref(false);
  const failed = ref("");
  const tried = ref(false);
  const judged = ref<Schemas["OutlookOut"] | null>(null);
  const asking = ref(false);
  const seen = ref<Problem[]>([]);
  const clashes = ref<Clash[]>([]);
  const noticed = ref("");
  const amending = ref(false);
  /** The plan as it stood before each step of this page, and after those that were taken back. */
  const before = ref<string[]>([]);
  const after = ref<string[]>([]);
  let stood = "";
  let stepTimer = 0;
  let shape = "";
  /** How many there are of everything: what is added or taken out is a step by itself. */
  const shapeNow = () =>
    Object.values(plan.value ?? {})
      .map((one) => (Array.isArray(one) ? one.length : 0))
      .join() + `/${plan.value?.layout.blocks.length ?? 0}`;
  let loaded: Plan | undefined;
  let saveTimer = 0;
  let askTimer = 0;
  let aroundTimer = 0;
  let retryTimer = 0;
  let retryAfter = FIRST_RETRY;
  /** Whether the sign-in has run out: it is mended in place. */
  const signedOut = ref(false);
  /** Whether something is typed here that the server does not have. */
  const unsent = () =>
    !!plan.value &&
    !!saved.value?.may_edit &&
    JSON.stringify(plan.value) !== JSON.stringify(saved.value.plan);
  let asked = 0;
  let shown = 0;
  let underWay: Promise<void> | undefined;
  const path = { params: { path: { trial_id: trial } } };

  async function load(): Promise<void> {
    const out = await patiently(answer(api.GET("/api/trials/{trial_id}/plan", path)));
    take(out);
    plan.value = copy(out.plan);
    loaded = copy(out.plan);
    savedAt.value = new Date(out.saved_at);
    clashes.value = [];
    failed.value = "";
    amending.value = false;
    signedOut.value = false;
    forgetSteps();
    comeBack(out);
    await ask();
  }

  /** What was typed here before and did not reach the server stands in the plan again, beside what others
   * have
   * changed since.
   */
  function comeBack(out: Schemas["PlanOut"]): void {
    const kept = keptDraft(trial);
    if (!kept) return;
    if (!out.may_edit) {
      if (out.sealed) forgetDraft(trial);
      return;
    }
    const both = merged(kept.base, kept.mine, out.plan);
    plan.value = copy(both.plan);
    clashes.value.push(...both.clashes);
    if (unsent()) noticed.value = "What you typed here before is back";
    else forgetDraft(trial);
  }

  function take(out: Schemas["PlanOut"]): void {
    saved.value = out;
    seen.value = out.problems;
  }

  /** Save what has changed, one request at a time; resolves once all that is typed by now is kept or refused.
   */
  async function save(): Promise<void> {
    window.clearTimeout(saveTimer);
    while (underWay) await underWay;
    underWay = saveOnce().finally(() => (underWay = undefined));
    await underWay;
  }

  async function saveOnce(again = true): Promise<void> {
    if (!plan.value || !saved.value?.may_edit) return;
    window.clearTimeout(retryTimer);
    const sent = JSON.stringify(plan.value);
    if (sent === JSON.stringify(saved.value.plan)) {
      forgetDraft(trial);
      return;
    }
    saving.value = true;
    try {
      take(
        await answer(
          api.PUT("/api/trials/{trial_id}/plan", {
            ...path,
            body: { plan: JSON.parse(sent) as Plan, version: saved.value.version },
          }),
        ),
      );
      savedAt.value = new Date();
      failed.value = "";
      signedOut.value = false;
      retryAfter = FIRST_RETRY;
      if (!unsent()) forgetDraft(trial);
      void trialChanged(trial, ["course"]);
    } catch (error) {
      if (error instanceof Declined && error.status === 409 && again) {
        try {
          await pull();
          await saveOnce(false);
        } catch (second) {
          failed.value = sure(problemsOf(second)[0]).says;
        }
        return;
      }
      failed.value = sure(problemsOf(error)[0]).says;
      if (error instanceof Declined && error.status === 422) seen.value = error.problems;
      else later(error);
    } finally {
      saving.value = false;
    }
  }

  /** Try once more by itself, less and less often; what is typed is on this device until then. */
  function later(error: unknown): void {
    failed.value = `${failed.value} ${ON_DEVICE}`;
    signedOut.value = error instanceof Declined && error.status === 401;
    if (signedOut.value || (error instanceof Declined && error.status < 500 && error.status !== 429)) return;
    retryTimer = window.setTimeout(() => void save(), retryAfter);
    retryAfter = Math.min(2 * retryAfter, LONGEST_RETRY);
  }
  const back = () => void save();
  /** A page that is closed with something that cannot be sent asks first. */
  function askFirst(event: BeforeUnloadEvent): void {
    if (unsent() && failed.value) event.preventDefault();
  }

  /** Take in what somebody else has saved, beside what is typed here and not saved yet. */
  async function pull(): Promise<void> {
    const out = await answer(api.GET("/api/trials/{trial_id}/plan", path));
    if (out.version === sure(saved.value).version && out.may_edit) return;
    const changed = differing(sure(saved.value).plan, out.plan).map((field) => partOf(field).name);
    const both = merged(sure(saved.value).plan, sure(plan.value), out.plan);
    noticed.value = out.sealed
      ? ""
      : `${out.saved_by} changed ${[...new Set(changed)].join(", ") || "something"} just now.`;
    clashes.value.push(...both.clashes);
    take(out);
    plan.value = copy(both.plan);
    savedAt.value = new Date(out.saved_at);
    forgetSteps();
  }

  /** Put my own words back where somebody else's stand now. */
  function putBack(clash: Clash): void {
    const parts = clash.at.split(".");
    const last = sure(parts.pop());
    const home = read(plan.value, parts.join(".")) as Record<string, unknown> | undefined;
    const target = parts.length ? home : (plan.value as unknown as Record<string, unknown>);
    if (target) target[last] = copy(clash.mine);
    letGo(clash);
  }
  const letGo = (clash: Clash) => (clashes.value = clashes.value.filter((one) => one !== clash));

  async function lookAround(): Promise<void> {
    const busy = () => saving.value || underWay;
    if (!saved.value?.may_edit || busy() || document.hidden) return;
    try {
      const { version, sealed } = await answer(api.GET("/api/trials/{trial_id}/plan/version", path));
      if ((version !== saved.value.version || sealed) && !busy()) await pull();
    } catch {
      // Without a network nothing of others comes in; saving says so.
    }
  }

  async function ask(): Promise<void> {
    const turn = ++asked;
    asking.value = true;
    const told = async (part: "headline" | "whole") => {
      const found = await answer(
        api.POST("/api/outlook", {
          body: {
            plan: sure(plan.value),
            predictions: saved.value?.predictions ?? 0,
            sealed: Boolean(saved.value?.sealed),
            part,
          },
        }),
      );
      // While somebody types on, an answer about a moment ago is still the newest there is.
      if (turn >= shown) [judged.value, shown] = [found, turn];
      return found;
    };
    try {
      const first = await told("headline");
      // What would help takes longer, and is asked for only once nobody types on.
      if (turn === asked && first.outlook && !first.outlook.whole) await told("whole");
    } catch {
      if (turn > shown) [judged.value, shown] = [null, turn];
    } finally {
      if (turn === asked) asking.value = false;
    }
  }

  /** What was done since the last pause is one step. */
  function step(): void {
    window.clearTimeout(stepTimer);
    const now = JSON.stringify(plan.value);
    if (now === stood) return;
    before.value = [...before.value, stood].slice(-MOST_STEPS);
    after.value = [];
    stood = now;
  }
  function go(from: typeof before, to: typeof before): void {
    step();
    const there = from.value.at(-1);
    if (there === undefined || !(saved.value?.may_edit ?? false)) return;
    to.value = [...to.value, stood];
    from.value = from.value.slice(0, -1);
    stood = there;
    plan.value = JSON.parse(there) as Plan;
  }
  const undo = () => go(before, after);
  const redo = () => go(after, before);
  /** Steps begin anew where somebody else's changes came in: nobody takes those back unawares. */
  function forgetSteps(): void {
    [stood, shape] = [JSON.stringify(plan.value), shapeNow()];
    [before.value, after.value] = [[], []];
  }

  watch(
    plan,
    () => {
      if (!saved.value?.may_edit && !amending.value) return;
      if (!amending.value) {
        window.clearTimeout(stepTimer);
        if (shapeNow() === shape) stepTimer = window.setTimeout(step, A_STEP_AFTER);
        else step();
        shape = shapeNow();
      }
      window.clearTimeout(saveTimer);
      window.clearTimeout(askTimer);
      if (!amending.value) {
        // On the device before anything else.
        if (unsent() && !keepDraft(trial, sure(saved.value).plan, sure(plan.value)))
          failed.value =
            "This device has no room to keep what you type; it is on this page alone until the server has it.";
        saveTimer = window.setTimeout(() => void save(), SAVE_AFTER);
      }
      askTimer = window.setTimeout(() => void ask(), ASK_AFTER);
    },
    { deep: true },
  );
  onMounted(() => {
    aroundTimer = window.setInterval(() => void lookAround(), LOOK_AROUND_EVERY);
    window.addEventListener("online", back);
    window.addEventListener("beforeunload", askFirst);
  });
  onUnmounted(() => {
    window.removeEventListener("online", back);
    window.removeEventListener("beforeunload", askFirst);
    window.clearTimeout(retryTimer);
    window.clearTimeout(askTimer);
    window.clearTimeout(stepTimer);
    window.clearInterval(aroundTimer);
    void save().then(() => trialChanged(trial));
  });

  /** Work on a copy of the sealed plan, on which every sentence about what is wrong is shown at once. */
  function beginAmending(): void {
    amending.value = true;
    tried.value = true;
  }
  /** So many predictions are written down now: the fairness list counts them. */
  function predicted(count: number): void {
    if (!saved.value || saved.value.predictions === count) return;
    saved.value.predictions = count;
    seen.value = seen.value.filter((one) => one.at !== "fairness.prediction");
    void ask();
  }

  /** The sentence at a field: once it was changed here, or once sealing was tried. */
  function says(at: string): string | undefined {
    const found = saysAt(amending.value ? (judged.value?.problems ?? []) : seen.value, at);
    if (!found) return undefined;
    const now = JSON.stringify(read(plan.value, at));
    // What was said about an older text is no longer true.
    if (!amending.value && now !== JSON.stringify(read(saved.value?.plan, at)) && !failed.value)
      return undefined;
    return tried.value || JSON.stringify(read(loaded, at)) !== now ? found : undefined;
  }
  const leak = (at: string) => saved.value?.leaks.find((one) => one.at === at)?.says;

  const words = computed(() => {
    if (amending.value) return "Amending: nothing is kept before you give the reason";
    if (saved.value?.sealed) return saved.value.amendments.length ? "Sealed, and amended since" : "Sealed";
    if (failed.value) return failed.value;
    return saving.value ? "Keeping…" : "";
  });
  const problems = computed(() => seen.value);
  /** How many things of a part are still open. */
  const open = (part: PartKey) => problems.value.filter((one) => partOf(one.at).key === part).length;

  return {
    trial,
    plan,
    saved,
    savedAt,
    load,
    save,
    ask,
    says,
    leak,
    words,
    failed,
    tried,
    judged,
    /** What a sample is called, by one and by several. */
    sample: computed(() => judged.value?.sample ?? SAMPLE),
    asking,
    problems,
    open,
    outlook: computed(() => judged.value?.outlook ?? null),
    editable: computed(() => amending.value || (saved.value?.may_edit ?? false)),
    clashes,
    putBack,
    letGo,
    noticed,
    amending,
    beginAmending,
    predicted,
    signedOut,
    undo,
    redo,
    mayUndo: computed(() => !amending.value && before.value.length > 0),
    mayRedo: computed(() => !amending.value && after.value.length > 0),
  };
}

export type PlanAtWork = ReturnType<typeof usePlan>;
