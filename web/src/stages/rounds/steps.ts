/** The steps of a round one at a time: each sample's outcomes, those of a group that are scored with one tap
 * together.
 */
import { sure } from "@/parts/sure";
import type { Outcome, RoundSample } from "./useRound";

export interface Step {
  sample: RoundSample;
  /** One outcome, or all of a group. */
  outcomes: Outcome[];
}

const oneTap = (outcome: Outcome) =>
  ["grade", "passfail", "event"].includes(outcome.scale.kind) && !outcome.wait;

export function stepsOf(samples: RoundSample[], outcomes: Outcome[]): Step[] {
  const together: Outcome[][] = [];
  for (const outcome of outcomes) {
    const group = outcome.group.trim();
    const known =
      group && oneTap(outcome)
        ? together.find((own) => sure(own[0]).group.trim() === group && oneTap(sure(own[0])))
        : undefined;
    if (known) known.push(outcome);
    else together.push([outcome]);
  }
  return samples.flatMap((sample) => together.map((own) => ({ sample, outcomes: own })));
}
