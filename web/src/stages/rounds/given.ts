/** What was meant by what was typed for an outcome: a number, words, or the responses of a curve. */
import type { Given } from "./useRound";
import { type Scale } from "@/parts/amounts";
import { typed } from "@/parts/typed";

export function givenIn(text: string, scale: Scale): { given?: Given; says: string } {
  if (scale.kind === "note")
    return text.trim() ? { given: text.trim(), says: "" } : { says: "There are no words yet." };
  if (scale.kind === "curve") {
    const parts = text
      .replaceAll("−", "-")
      .trim()
      .split(/[;\s]+|,\s+/)
      .filter(Boolean);
    const values = parts.map((part) => (part === "-" ? null : Number(part.replace(",", "."))));
    if (values.some((value) => value !== null && !Number.isFinite(value)))
      return { says: "Numbers only, with a space between them, and - for a step that was not taken." };
    const known = values.filter((value) => value !== null).length;
    if (values.length > scale.steps.length)
      return { says: `${values.length} values for ${scale.steps.length} steps.` };
    const enough =
      scale.number === "last" ? values.length === scale.steps.length && values.at(-1) !== null : known >= 2;
    return enough
      ? { given: values, says: "" }
      : { says: `${known} of ${scale.steps.length} steps have a value.` };
  }
  const value = typed(text, scale);
  return typeof value === "string" ? { says: value } : { given: value, says: "" };
}
