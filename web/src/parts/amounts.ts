/** Numbers with their unit and honest digits. */
import type { Schemas } from "@/shell/api/client";

type Scale = Schemas["GradeScale"] | Schemas["MeasurementScale"] | Schemas["CountScale"] | Schemas["PassFailScale"];
export type { Scale };

/** At most so many significant digits, none before the point rounded away, no trailing zeros; a true minus sign. */
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
      return scale.unit;
    case "count":
      return scale.of ? `of ${scale.of}` : scale.what;
    case "passfail":
      return "%";
    default:
      return "";
  }
}

/** A treatment's estimate with its unit. */
export function amount(value: number, scale: Scale): string {
  const shown = scale.kind === "passfail" ? honest(100 * value, 2) : honest(value);
  return [shown, unitOf(scale)].filter(Boolean).join(" ");
}

/** A difference with its sign and unit. */
export function difference(value: number, scale: Scale): string {
  const plus = value > 0 ? "+" : "";
  if (scale.kind === "passfail") return `${plus}${honest(100 * value, 2)} points`;
  const unit = scale.kind === "measurement" ? scale.unit : scale.kind === "grade" ? "grades" : (scale.what || "");
  return [plus + honest(value), unit].filter(Boolean).join(" ");
}

/** One reading, as it was given. */
export function reading(value: number, scale: Scale): string {
  switch (scale.kind) {
    case "grade":
      return scale.levels.find((level) => level.value === value)?.label ?? honest(value);
    case "passfail":
      return value === 1 ? scale.pass_word : scale.fail_word;
    case "measurement":
      return `${honest(value, 6)} ${scale.unit}`;
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
  const value = Number(/^-?\d+,\d+$/.test(written) ? written.replace(",", ".") : written);
  if (!Number.isFinite(value)) return `“${text.trim()}” is not a number.`;
  if (scale.kind === "count") {
    if (value < 0 || !Number.isInteger(value)) return "A count is a whole number, 0 or more.";
    if (scale.of && value > scale.of) return `There are only ${scale.of}.`;
  }
  if (scale.kind === "measurement") {
    if (scale.low !== null && value < scale.low) return `Below ${honest(scale.low, 6)} ${scale.unit}, the lowest plausible value.`;
    if (scale.high !== null && value > scale.high) return `Above ${honest(scale.high, 6)} ${scale.unit}, the highest plausible value.`;
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
    default:
      return `${scale.pass_word} or ${scale.fail_word}`;
  }
}
