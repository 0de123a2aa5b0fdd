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

/** What is read on a sample: of some not everything is asked. */
export const askedOf = (sample: RoundSample, outcomes: Outcome[]): Outcome[] =>
  sample.skips.length ? outcomes.filter((outcome) => !sample.skips.includes(outcome.key)) : outcomes;

export function stepsOf(samples: RoundSample[], outcomes: Outcome[]): Step[] {
  const together: Outcome[][] = [];
  const of = (sample: RoundSample) =>
    together.map((own) => askedOf(sample, own)).filter((own) => own.length > 0);
  for (const outcome of outcomes) {
    const group = outcome.group.trim();
    const known =
      group && oneTap(outcome)
        ? together.find((own) => sure(own[0]).group.trim() === group && oneTap(sure(own[0])))
        : undefined;
    if (known) known.push(outcome);
    else together.push([outcome]);
  }
  return samples.flatMap((sample) => of(sample).map((own) => ({ sample, outcomes: own })));
}
