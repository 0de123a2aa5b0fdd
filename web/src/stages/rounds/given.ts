/** What was meant by what was typed for an outcome: a number, words, or the responses of a curve. */
import type { Given } from "./useRound";
import { typed, type Scale } from "@/parts/amounts";

export function givenIn(text: string, scale: Scale): { given?: Given; says: string } {
  if (scale.kind === "note") return text.trim() ? { given: text.trim(), says: "" } : { says: "There are no words yet." };
  if (scale.kind === "curve") {
    const values = text.replaceAll("−", "-").trim().split(/[;\s]+|,\s+/).filter(Boolean).map((part) => Number(part.replace(",", ".")));
    if (values.some((value) => !Number.isFinite(value))) return { says: "Numbers only, with a space between them." };
    return values.length === scale.steps.length ? { given: values, says: "" } : { says: `${values.length} of ${scale.steps.length} steps have a value.` };
  }
  const value = typed(text, scale);
  return typeof value === "string" ? { says: value } : { given: value, says: "" };
}
