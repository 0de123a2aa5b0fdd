/** Two typings of one score: whether they say the same, and how the first one reads. */
import { sure } from "@/parts/sure";
import type { Cell, Given } from "./useRound";
import { reading } from "@/parts/amounts";
import type { Schemas } from "@/shell/api/client";

type Scale = Schemas["OutcomeOut"]["scale"];

export function sameGiven(first: Pick<Cell, "value" | "words" | "responses">, second: Given): boolean {
  if (typeof second === "string") return first.words.trim() === second.trim();
  if (Array.isArray(second))
    return (
      first.responses?.length === second.length &&
      second.every((one, i) => sameResponse(one, sure(sure(first.responses)[i])))
    );
  return first.value !== null && Math.abs(first.value - second) < 1e-9;
}

const sameResponse = (one: number | null, other: number | null) =>
  one === null || other === null ? one === other : Math.abs(one - other) < 1e-9;

/** The responses of a curve as they are typed: a stroke for a step that was not taken. */
export const shownResponses = (responses: (number | null)[] | null) =>
  (responses ?? []).map((one) => one ?? "-").join(" ");

export function shownGiven(cell: Pick<Cell, "value" | "words" | "responses">, scale: Scale): string {
  if (scale.kind === "note") return cell.words;
  if (scale.kind === "curve") return shownResponses(cell.responses);
  return cell.value === null ? "nothing" : reading(cell.value, scale);
}
