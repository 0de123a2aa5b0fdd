/** A trial told in words, as parts of a plan: what was understood goes in, what was not stays as it is. */
import { block, begun, checkpoint, outcome, treatment } from "../fresh";
import type { Plan } from "../usePlan";
import { windowsOf } from "../windows";
import type { Schemas } from "@/shell/api/client";

export type Told = Schemas["DescriptionOut"];
export type WordMark = Schemas["WordMark"];
export type Part = WordMark["part"];

const A_CYCLE = 1440;
const UNTIL_SAID = 4;

/** What each part is called, on the screen and by those who hear it. */
export const PART_NAMES: Record<Part, string> = {
  treatment: "compared",
  control: "the control",
  number: "how many",
  place: "a place",
  outcome: "looked at",
  look: "when",
  blind: "blind",
  begun: "has begun",
  nothing: "none of these",
};

/** What somebody may say that a piece of their text is, in the order in which it is asked. */
export const MAY_BE: Part[] = ["treatment", "control", "number", "place", "outcome", "look", "nothing"];

/** The characters of a text as the server counts them (code points). */
export const lettersOf = (text: string): string[] => Array.from(text);

/** Places in a text are counted in characters; a script counts some of them twice. */
export function pieceOf(text: string, begin: number, end: number): string {
  return lettersOf(text).slice(begin, end).join("");
}
export const placeIn = (text: string, unit: number): number => lettersOf(text.slice(0, unit)).length;

export interface Run {
  text: string;
  mark: WordMark | null;
}

/** The text in runs, each with the mark that covers it, if any. */
export function runsOf(text: string, marks: readonly WordMark[]): Run[] {
  const letters = lettersOf(text);
  const runs: Run[] = [];
  let at = 0;
  for (const mark of marks) {
    if (mark.begin > at) runs.push({ text: letters.slice(at, mark.begin).join(""), mark: null });
    runs.push({ text: letters.slice(mark.begin, mark.end).join(""), mark });
    at = mark.end;
  }
  if (at < letters.length) runs.push({ text: letters.slice(at).join(""), mark: null });
  return runs;
}

/** What somebody answered to what their words leave open. */
export interface Answers {
  /** Names of treatments that were only counted, by their place in the text's order. */
  names: Record<number, string>;
  each: number | null;
  /** Units of what is measured, by the outcome's name. */
  units: Record<string, string>;
}

/** What was told, with what was answered. */
export function answered(told: Told, answers: Answers): Told {
  return {
    ...told,
    each: answers.each ?? told.each,
    treatments: told.treatments.map((one, i) => {
      const name = answers.names[i]?.trim();
      return name && one.unnamed ? { ...one, name } : one;
    }),
    outcomes: told.outcomes.map((one) => {
      const unit = answers.units[one.name]?.trim();
      return unit && one.scale.kind === "measurement"
        ? { ...one, scale: { ...one.scale, unit }, open: "" }
        : one;
    }),
  };
}

/** Whether nothing but a title has been planned yet. */
export const isBare = (plan: Plan) =>
  !plan.treatments.length && !plan.outcomes.length && !plan.checkpoints.length && !plan.layout.blocks.length;

/** The plan with what was told; what it holds already of a part that nobody told of stays. */
export function withTold(plan: Plan, told: Told): Plan {
  const next: Plan = { ...plan };
  if (told.question && !plan.question.trim()) next.question = told.question;
  if (told.sample) next.sample_word = told.sample;
  if (told.pieces > 1) Object.assign(next, { pieces: told.pieces, piece_word: told.piece });
  if (told.treatments.length)
    next.treatments = told.treatments.map((one) =>
      treatment({ name: one.name, kind: one.kind, samples: one.samples ?? told.each ?? UNTIL_SAID }),
    );
  if (told.places.length > 1)
    next.layout = {
      ...plan.layout,
      kind: "blocks",
      blocks: told.places.map((name) => ({ ...block(), name })),
    };
  if (told.outcomes.length)
    next.outcomes = told.outcomes.map((one, i) =>
      outcome({ name: one.name, scale: one.scale, better: one.better, primary: i === 0 }),
    );
  if (told.looks.length) {
    next.cycle_word = told.cycle_word || plan.cycle_word;
    next.checkpoints = looksOf(told, plan.cycle_minutes ?? A_CYCLE);
  }
  if (told.blind && !plan.fairness.some((one) => one.item === "blind"))
    next.fairness = [...plan.fairness, { item: "blind", kept: true, reason: "" }];
  if (told.begun && !plan.begun) next.begun = begun();
  return next;
}

function looksOf(told: Told, cycle: number): Plan["checkpoints"] {
  const before = told.looks.filter((one) => one.baseline);
  const after = told.looks.filter((one) => !one.baseline);
  const offsets = after.map((one) => one.offset ?? (one.cycle ?? 0) * cycle);
  const windows = windowsOf(offsets);
  return [
    ...before.map((one) => checkpoint({ name: one.name, offset: 0, baseline: true })),
    ...after.map((one, i) =>
      checkpoint({
        name: one.name,
        offset: offsets[i],
        cycle: one.cycle,
        before: one.cycle === null ? windows[i] : 0,
        after: one.cycle === null ? windows[i] : A_CYCLE,
      }),
    ),
  ];
}
