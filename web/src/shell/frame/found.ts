/** What the finder offers, in the order of how well it fits. */
import type { RouteLocationRaw } from "vue-router";

export interface Found {
  key: string;
  /** What kind of thing it is, in a word. */
  kind: string;
  name: string;
  /** What it belongs to, or what it is for. */
  says: string;
  to: RouteLocationRaw;
}

export const MOST_FOUND = 14;
const plain = (text: string) => text.toLocaleLowerCase().replace(/\s+/g, " ").trim();

/** How well `one` fits what is wanted: 0 best, null not at all.  Each word has to stand in it, most of all at
 * the beginning of a word. */
export function fit(one: Pick<Found, "name" | "says" | "kind">, wanted: string): number | null {
  const name = plain(one.name);
  const all = `${name} ${plain(one.says)} ${plain(one.kind)}`;
  let away = 0;
  for (const word of plain(wanted).split(" ")) {
    if (name.startsWith(word)) continue;
    if (name.includes(` ${word}`)) away += 1;
    else if (name.includes(word)) away += 2;
    else if (all.includes(word)) away += 4;
    else return null;
  }
  return away;
}

/** The best of what is on the device and what the server told, each once. */
export function bestOf(all: readonly Found[], wanted: string): Found[] {
  if (!plain(wanted)) return all.slice(0, MOST_FOUND);
  const once = new Map(all.map((one) => [one.key, one]));
  return [...once.values()]
    .map((one) => ({ one, away: fit(one, wanted) }))
    .filter((each): each is { one: Found; away: number } => each.away !== null)
    .sort((a, b) => a.away - b.away)
    .slice(0, MOST_FOUND)
    .map((each) => each.one);
}
