/** Who wins where, in a sentence. */
import type { Schemas } from "@/shell/api/client";

/** Whether one comes first everywhere, said only where it is so. */
export function everywhere(where: Pick<Schemas["Where"], "places" | "changes">): string {
  const first = where.places.flatMap((one) => (one.winner === null ? [] : [one.winner]));
  if (!first.length) return "Nowhere does one come first: all are level.";
  if (where.changes) return "Not the same one comes first everywhere.";
  if (first.length === where.places.length) return `${first[0]} comes first everywhere.`;
  return `${first[0]} comes first in ${first.length} of ${where.places.length}; elsewhere none does.`;
}
