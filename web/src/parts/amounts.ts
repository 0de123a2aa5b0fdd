/** Numbers with their unit and honest digits. */
import words from "../../../cases/words.json";
import type { Schemas } from "@/shell/api/client";

export type Scale = Schemas["Outcome"]["scale"];

/** At most so many significant digits, none before the point rounded away, no trailing zeros; a true minus
 * sign.  The core does the same; `cases/rounding.json` holds both to it.
 */
export function honest(value: number, digits = 3): string {
  if (value === 0) return "0";
  const decimals = Math.max(0, digits - 1 - Math.floor(Math.log10(Math.abs(value))));
  const written = Math.abs(value).toFixed(Math.min(decimals, words.decimals));
  const plain = written.includes(".") ? written.replace(/\.?0+$/, "") : written;
  return (value < 0 && plain !== "0" ? "−" : "") + plain;
}

/** With so many decimals, zeros too: what belongs together, as the ends of an interval, is written alike. */
export function alike(value: number, decimals: number): string {
  const written = Math.abs(value).toFixed(decimals);
  return (value < 0 && Number(written) ? "−" : "") + written;
}

/** What stands behind a number on this scale. */
export function unitOf(scale: Scale): string {
  switch (scale.kind) {
    case "measurement":
    case "ladder":
      return scale.unit;
    case "curve":
      return scale.number === "slope"
        ? `${scale.unit} per ${scale.step_unit}`
        : `${scale.unit} at ${honest(scale.steps.at(-1) ?? 0, 6)} ${scale.step_unit}`;
    case "count":
      return scale.of ? `of ${scale.of}` : scale.what;
    case "passfail":
    case "event":
    case "percent":
      return "%";
    default:
      return "";
  }
}

/** The unit in which a difference on this scale is told and typed. */
export function differenceUnit(scale: Scale): string {
  switch (scale.kind) {
    case "grade":
      return "grades";
    case "shade":
      return "steps";
    case "passfail":
    case "event":
      return "share";
    case "count":
      return scale.what;
    case "note":
      return "";
    default:
      return unitOf(scale);
  }
}

/** Whether a value on this scale is yes (1) or no (0), so that its mean is a share. */
export const isShare = (scale: Scale) => scale.kind === "passfail" || scale.kind === "event";

const DUST = 1e-3;
const LEVEL = 1e-9;
const round = (value: number, decimals: number) =>
  (Math.sign(value) * Math.round(Math.abs(value) * 10 ** decimals + LEVEL)) / 10 ** decimals;

/** How many decimals a mean is told with: one more than the scale is read to; null where it does not say. */
function decimalsOf(scale: Scale): number | null {
  if (scale.kind === "count" || scale.kind === "shade" || scale.kind === "grade") return 1;
  const step = scale.kind === "measurement" || scale.kind === "percent" ? scale.resolution : null;
  return step ? Math.max(0, Math.floor(-Math.log10(step) + LEVEL) + 1) : null;
}

/** The number of a mean on its scale, without its unit. */
export function figure(value: number, scale: Scale): string {
  const most = decimalsOf(scale);
  if (most === null) return honest(value);
  const plain = round(value, most);
  return plain === 0 && Math.abs(value) >= DUST ? honest(value, 1) : honest(plain);
}

/** A share (0 to 1) in whole percent, without the sign; 0 and 100 only where it is just that. */
export function share(value: number): string {
  const percent = 100 * value;
  const whole = round(percent, 0);
  if ((whole > 0 && whole < 100) || percent === 0 || percent === 100) return honest(whole);
  if (whole <= 0 && percent > 0) return percent >= 0.1 ? honest(percent, 1) : "<0.1";
  if (whole >= 100 && percent < 100) return percent <= 99.9 ? honest(Math.floor(10 * percent) / 10) : ">99.9";
  return honest(whole);
}

/** A middle grade by the label of its level, or the two that it lies between. */
function graded(value: number, scale: Extract<Scale, { kind: "grade" }>): string {
  const below = scale.levels.filter((level) => level.value <= value + LEVEL).at(-1);
  const above = scale.levels.find((level) => level.value >= value - LEVEL);
  if (!below || !above) return (below ?? above)?.label ?? "";
  return below.label === above.label ? below.label : `between ${below.label} and ${above.label}`;
}

/** A mean over samples without its unit: of grades on the numbers that people gave, else in words. */
export function meanOf(value: number, scale: Scale): string {
  if (isShare(scale)) return share(value);
  if (scale.kind !== "grade") return figure(value, scale);
  const own = scale.levels.map((level) => Number(level.label.replace("½", ".5") || NaN));
  const at = scale.levels.findIndex((level, i) => i > 0 && value <= level.value + LEVEL);
  const [low, high] = [scale.levels[at - 1], scale.levels[at]];
  const [from, to] = [own[at - 1], own[at]];
  if (own.some(Number.isNaN) || !low || !high || from === undefined || to === undefined)
    return graded(value, scale);
  return figure(from + ((value - low.value) / (high.value - low.value)) * (to - from), scale);
}

/** What stands at a tick of an axis: the label of a grade or shade that lies just there, else its number. */
export function tickWord(value: number, scale: Scale, change = false): string {
  if (isShare(scale)) return `${honest(100 * value, 3)} %`;
  if (change) return honest(value, 4);
  if (scale.kind === "grade")
    return scale.levels.find((level) => Math.abs(level.value - value) < LEVEL)?.label ?? "";
  if (scale.kind === "shade") return Number.isInteger(value) ? (scale.steps[value - 1]?.label ?? "") : "";
  return honest(value, 4);
}

const ONE: Record<string, string> = { points: "point", grades: "grade", steps: "step", days: "day" };
const worded = (told: string, unit: string) => (told === "1" || told === "−1" ? (ONE[unit] ?? unit) : unit);

/** A number with its unit, one of it where it counts something. */
export const withUnit = (told: string, unit: string) => [told, worded(told, unit)].filter(Boolean).join(" ");

/** A treatment's estimate with its unit, or in the words of its scale. */
export function amount(value: number, scale: Scale): string {
  if (isShare(scale)) return `${share(value)} %`;
  if (scale.kind === "grade") return graded(value, scale);
  const told = figure(value, scale);
  if (scale.kind === "shade") return `step ${told}`;
  return withUnit(told, unitOf(scale));
}

/** A difference with its sign and unit. */
export function difference(value: number, scale: Scale): string {
  const told = isShare(scale)
    ? honest(round(100 * value, Math.abs(value) >= 0.01 || value === 0 ? 0 : 1))
    : figure(value, scale);
  const plus = value > 0 && told !== "0" ? "+" : "";
  const unit = isShare(scale) || scale.kind === "percent" ? "points" : differenceUnit(scale);
  return plus + withUnit(told, unit);
}

/** One reading, as it was given. */
export function reading(value: number, scale: Scale): string {
  switch (scale.kind) {
    case "grade":
      return scale.levels.find((level) => level.value === value)?.label ?? honest(value);
    case "passfail":
      return value === 1 ? scale.pass_word : scale.fail_word;
    case "event":
      return value === 1 ? "seen" : "not yet";
    case "shade":
      return Number.isInteger(value)
        ? (scale.steps[value - 1]?.label ?? honest(value))
        : `between ${scale.steps[Math.floor(value) - 1]?.label} and ${scale.steps[Math.ceil(value) - 1]?.label}`;
    case "ladder":
      return value === 0 ? "held nothing" : `held ${honest(value, 6)} ${scale.unit}`;
    case "measurement":
    case "curve":
    case "percent":
      return `${honest(value, 6)} ${unitOf(scale)}`;
    default:
      return honest(value, 9);
  }
}

/** A scale in a few words: "grade 0 to 5", "measured in mL", "counted, of 20 seeds". */
export function scaleWords(scale: Scale): string {
  switch (scale.kind) {
    case "grade":
      return `grade ${scale.levels[0]?.label ?? ""} to ${scale.levels.at(-1)?.label ?? ""}`;
    case "measurement":
      return `measured in ${scale.unit || "…"}`;
    case "count":
      return scale.of ? `counted, of ${scale.of}${scale.what ? ` ${scale.what}` : ""}` : "counted";
    case "percent":
      return `percent${scale.what ? ` ${scale.what}` : ""}`;
    case "shade":
      return `a chart of ${scale.steps.length} shades`;
    case "event":
      return `when it happens${scale.what ? `: ${scale.what}` : ""}`;
    case "ladder":
      return `rising load to ${honest(scale.steps.at(-1) ?? 0, 6)} ${scale.unit}`;
    case "curve":
      return `${scale.unit || "…"} at ${scale.steps.length} steps of ${scale.step_unit || "…"}`;
    case "note":
      return "in words";
    default:
      return `${scale.pass_word} or ${scale.fail_word}`;
  }
}
