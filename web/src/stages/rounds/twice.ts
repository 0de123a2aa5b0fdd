/** Two typings of one score: whether they say the same, and how the first one reads. */
import type { Cell, Given } from "./useRound";
import { reading } from "@/parts/amounts";
import type { Schemas } from "@/shell/api/client";

type Scale = Schemas["OutcomeOut"]["scale"];

export function sameGiven(first: Pick<Cell, "value" | "words" | "responses">, second: Given): boolean {
  if (typeof second === "string") return first.words.trim() === second.trim();
  if (Array.isArray(second)) return first.responses?.length === second.length && second.every((one, i) => Math.abs(one - first.responses![i]!) < 1e-9);
  return first.value !== null && Math.abs(first.value - second) < 1e-9;
}

export function shownGiven(cell: Pick<Cell, "value" | "words" | "responses">, scale: Scale): string {
  if (scale.kind === "note") return cell.words;
  if (scale.kind === "curve") return (cell.responses ?? []).join(" ");
  return cell.value === null ? "nothing" : reading(cell.value, scale);
}
