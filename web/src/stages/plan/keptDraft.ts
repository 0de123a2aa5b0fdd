/** What is typed into a plan and not yet kept by the server, on this device: it outlasts a failed save, a
 * reload and a closed page.
 */
import { keys } from "@/shell/queryKeys";
import { some, type Outcome, type Treatment } from "./fresh";
import type { Schemas } from "@/shell/api/client";
import { queryClient } from "@/shell/query";

type Plan = Schemas["Plan"];

interface KeptDraft {
  /** Whose it is: nobody else on this device gets to see it. */
  person: number;
  /** What the server had when it was typed. */
  base: Plan;
  mine: Plan;
}

const at = (trial: string) => `field-tally/draft/${trial}`;
const whoIsHere = () => queryClient.getQueryData<Schemas["Me"]>(keys.me())?.id ?? 0;

/** Keep it here.  False where this device has no room, or does not allow it. */
export function keepDraft(trial: string, base: Plan, mine: Plan): boolean {
  try {
    localStorage.setItem(at(trial), JSON.stringify({ person: whoIsHere(), base, mine } satisfies KeptDraft));
    return true;
  } catch {
    return false;
  }
}

/** What this person typed before and the server does not have; null: nothing. */
export function keptDraft(trial: string): KeptDraft | null {
  try {
    const found = JSON.parse(localStorage.getItem(at(trial)) ?? "null") as Partial<KeptDraft> | null;
    const whole = found?.mine && found.base && found.person === whoIsHere();
    return whole ? inTodaysWords(found as KeptDraft) : null;
  } catch {
    return null;
  }
}

/** What an earlier version kept under another word, or did not know yet. */
function inTodaysWords(kept: KeptDraft): KeptDraft {
  for (const plan of [kept.mine, kept.base] as (KeptDraft["mine"] & {
    stop?: KeptDraft["mine"]["ending"];
  })[]) {
    if (plan.stop) {
      plan.ending = plan.stop;
      delete plan.stop;
    }
    const old = plan as Partial<Pick<Plan, "groups" | "kinds" | "shared_costs" | "outside" | "agreement">>;
    old.groups ??= [];
    old.kinds ??= [];
    old.shared_costs ??= [];
    old.outside ??= [];
    old.agreement ??= null;
    for (const one of plan.treatments as Partial<Pick<Treatment, "holds" | "other_substance">>[]) {
      one.holds ??= null;
      one.other_substance ??= false;
    }
    for (const one of [...plan.outcomes, ...plan.checkpoints] as Partial<
      Pick<Outcome, "only" | "done" | "rare">
    >[]) {
      one.only ??= some();
      if ("scale" in one) {
        one.done ??= null;
        one.rare ??= null;
      }
    }
  }
  return kept;
}

export const forgetDraft = (trial: string) => localStorage.removeItem(at(trial));
