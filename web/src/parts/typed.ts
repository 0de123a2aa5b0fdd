/** What is meant by what was typed on a scale, told at once and without a network.
 *
 * The core reads it in the same way when it is stored; `cases/typed.json`, made by the core, holds both to
 * it: the same number, or the same sentence.
 */
import words from "../../../cases/words.json";
import { honest, type Scale } from "./amounts";

type Of<K extends Scale["kind"]> = Extract<Scale, { kind: K }>;
const MISSING = "A value is missing here.";
const NUMBER = /^[+-]?(\d+\.?\d*|\.\d+)(e[+-]?\d+)?$/i;
const NEAR = 1e-9;
const near = (a: number, b: number) => Math.abs(a - b) < NEAR;

/** A word as it is compared: in any case, and with whichever sign people type for a minus. */
const lower = (text: string) => text.trim().toLowerCase().replaceAll("ß", "ss");
const folded = (text: string) => lower(text.replaceAll("−", "-"));
/** A number in a sentence, as the core writes it. */
const told = (value: number, digits = 3) => honest(value, digits).replace("−", "-");

/** The finite number that is written, or the sentence that says why it is none. */
export function numberIn(text: string): number | string {
  let written = text.replaceAll("−", "-").trim();
  if (!written) return MISSING;
  if (written.split(",").length === 2 && !written.includes(".")) written = written.replace(",", ".");
  const value = NUMBER.test(written) ? Number(written) : NaN;
  if (!Number.isFinite(value)) return `“${text.trim()}” is not a number.`;
  if (Math.abs(value) > words.largest) return `“${text.trim()}” is too large a number to be compared.`;
  return value;
}

function withoutUnit(text: string, unit: string): string {
  const written = text.trim();
  const behind = unit !== "" && lower(written).endsWith(lower(unit));
  return behind ? written.slice(0, written.length - unit.length).trim() : written;
}

/** The number that is written, unless `refusal` has a sentence about it. */
function numberUnless(text: string, refusal: (value: number) => string | null): number | string {
  const value = numberIn(text);
  return typeof value === "string" ? value : (refusal(value) ?? value);
}

function grade(text: string, { levels }: Of<"grade">): number | string {
  const level = levels.find((one) => folded(one.label) === folded(text));
  if (level) return level.value;
  const labels = levels.map((one) => one.label).join(", ");
  return numberUnless(text, (value) =>
    levels.some((one) => near(one.value, value))
      ? null
      : `${told(value)} is not one of the grades ${labels}.`,
  );
}

function shade(text: string, { steps, between }: Of<"shade">): number | string {
  const named = steps.findIndex((one) => folded(one.label) === folded(text));
  if (named >= 0) return named + 1;
  const grain = between ? 2 : 1;
  const halves = between ? ", or half way between two" : "";
  return numberUnless(text, (value) =>
    near(value * grain, Math.round(value * grain)) && value >= 1 && value <= steps.length
      ? null
      : `${told(value)} is not a step of this chart, which has ${steps.length}${halves}.`,
  );
}

function yesOrNo(text: string, yes: string[], no: string[], neither: string): number | string {
  const word = lower(text);
  if (!word) return MISSING;
  if (yes.includes(word)) return 1;
  return no.includes(word) ? 0 : `“${text.trim()}” is neither ${neither}.`;
}

function count(value: number, { of }: Of<"count">): string | null {
  if (value > words.largest) return "This number is too large to be a count.";
  if (value < 0) return "A count cannot be below 0.";
  if (!near(value, Math.round(value))) return `${told(value)} is not a whole number.`;
  return of !== null && value > of ? `${told(value, 9)} is more than the ${of} there are.` : null;
}

function measurement(value: number, { unit, low, high }: Of<"measurement">): string | null {
  const said = `${told(value, 6)} ${unit}`;
  if (low !== null && value < low)
    return `${said} is below the plausible range, which starts at ${told(low, 6)}.`;
  return high !== null && value > high
    ? `${said} is above the plausible range, which ends at ${told(high, 6)}.`
    : null;
}

/** The number meant by what was typed on this scale, or the sentence that says why not. */
export function typed(text: string, scale: Scale): number | string {
  switch (scale.kind) {
    case "grade":
      return grade(text, scale);
    case "shade":
      return shade(text, scale);
    case "passfail": {
      const { pass_word, fail_word } = scale;
      const [yes, no] = [
        [lower(pass_word), ...words.pass],
        [lower(fail_word), ...words.fail],
      ];
      return yesOrNo(text, yes, no, `${pass_word} (1) nor ${fail_word} (0)`);
    }
    case "event":
      return yesOrNo(text, words.seen, words.unseen, "seen (1) nor not yet (0)");
    case "count":
      return numberUnless(text, (value) => count(value, scale));
    case "percent":
      return numberUnless(withoutUnit(text, "%"), (value) =>
        value >= 0 && value <= 100
          ? null
          : `${told(value, 6)} % is no share of a whole: it lies between 0 and 100 %.`,
      );
    case "ladder": {
      const steps = [0, ...scale.steps].map((step) => told(step, 6)).join(", ");
      return numberUnless(withoutUnit(text, scale.unit), (value) =>
        [0, ...scale.steps].some((step) => near(value, step))
          ? null
          : `${told(value, 6)} ${scale.unit} is no step of this ladder: its steps are ${steps} ${scale.unit}.`,
      );
    }
    case "measurement":
      return numberUnless(withoutUnit(text, scale.unit), (value) => measurement(value, scale));
    case "note":
      return "A note cannot be compared; it has no number.";
    default:
      return numberIn(text);
  }
}
