/** Numbers with their unit and honest digits. */
import type { Schemas } from "@/shell/api/client";

export type Scale = Schemas["Outcome"]["scale"];

/** At most so many significant digits, none before the point rounded away, no trailing zeros; a true minus
 * sign.
 */
export function honest(value: number, digits = 3): string {
  if (value === 0) return "0";
  const decimals = Math.max(0, digits - 1 - Math.floor(Math.log10(Math.abs(value))));
  const written = Math.abs(value).toFixed(Math.min(decimals, 12));
  const plain = written.includes(".") ? written.replace(/\.?0+$/, "") : written;
  return (value < 0 && plain !== "0" ? "−" : "") + plain;
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

/** A treatment's estimate with its unit. */
export function amount(value: number, scale: Scale): string {
  if (scale.kind === "shade") return `step ${honest(value)}`;
  const shown = isShare(scale) ? honest(100 * value, 2) : honest(value);
  return [shown, unitOf(scale)].filter(Boolean).join(" ");
}

/** A difference with its sign and unit. */
export function difference(value: number, scale: Scale): string {
  const plus = value > 0 ? "+" : "";
  if (isShare(scale)) return `${plus}${honest(100 * value, 2)} points`;
  return [plus + honest(value), differenceUnit(scale)].filter(Boolean).join(" ");
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

/** The number meant by what was typed on this scale, or the sentence that says why not. */
export function typed(text: string, scale: Scale): number | string {
  const written = text.trim().replace("−", "-");
  if (!written) return "Type a value first.";
  if (scale.kind === "grade") {
    const level = scale.levels.find((one) => one.label.trim().toLowerCase() === written.toLowerCase());
    return level ? level.value : `Grades are ${scale.levels.map((one) => one.label).join(", ")}.`;
  }
  if (scale.kind === "passfail") {
    const word = written.toLowerCase();
    if (["1", "y", "yes", scale.pass_word.toLowerCase()].includes(word)) return 1;
    if (["0", "n", "no", scale.fail_word.toLowerCase()].includes(word)) return 0;
    return `Type 1 for ${scale.pass_word}, 0 for ${scale.fail_word}.`;
  }
  if (scale.kind === "event") {
    if (["1", "y", "yes", "seen"].includes(written.toLowerCase())) return 1;
    return ["0", "n", "no", "not yet"].includes(written.toLowerCase())
      ? 0
      : "Type 1 once it is seen, 0 as long as it is not.";
  }
  if (scale.kind === "shade") {
    const step = scale.steps.findIndex((one) => one.label.trim().toLowerCase() === written.toLowerCase());
    if (step >= 0) return step + 1;
  }
  const value = Number(/^-?\d+,\d+$/.test(written) ? written.replace(",", ".") : written);
  if (!Number.isFinite(value)) return `“${text.trim()}” is not a number.`;
  if (scale.kind === "count") {
    if (value < 0 || !Number.isInteger(value)) return "A count is a whole number, 0 or more.";
    if (scale.of && value > scale.of) return `There are only ${scale.of}.`;
  }
  if (scale.kind === "percent" && (value < 0 || value > 100)) return "A share lies between 0 and 100 %.";
  if (scale.kind === "shade") {
    const whole = Number.isInteger(scale.between ? value * 2 : value);
    if (!whole || value < 1 || value > scale.steps.length)
      return `Steps are 1 to ${scale.steps.length}${scale.between ? ", halves between" : ""}.`;
  }
  if (scale.kind === "ladder" && value !== 0 && !scale.steps.includes(value))
    return `Steps are 0, ${scale.steps.map((one) => honest(one, 6)).join(", ")} ${scale.unit}.`;
  if (scale.kind === "measurement") {
    if (scale.low !== null && value < scale.low)
      return `Below ${honest(scale.low, 6)} ${scale.unit}, the lowest plausible value.`;
    if (scale.high !== null && value > scale.high)
      return `Above ${honest(scale.high, 6)} ${scale.unit}, the highest plausible value.`;
  }
  return value;
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
