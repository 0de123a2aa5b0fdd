/** Lists as people paste and type them: treatments a line each, and numbers for all of them at once. */
import type { Treatment } from "./fresh";

export interface Line {
  name: string;
  /** How many, where a number stands beside the name. */
  many: number | null;
}

const BULLET = /^\s*(?:[-*•–]|\d+[.)])\s+/;
const PARTED = /\t|\s*;\s*/;

/** The lines of a pasted list, or the rows of a pasted sheet; a head over numbers is none of them. */
export function linesOf(text: string): Line[] {
  const rows = text
    .split(/\r?\n/)
    .map((row) => row.replace(BULLET, "").split(PARTED))
    .filter((cells) => cells[0]?.trim());
  const whole = (cell: string | undefined) => /^\s*\d+\s*$/.test(cell ?? "");
  const headed = rows.length > 1 && !whole(rows[0]?.[1]) && rows.slice(1).every((cells) => whole(cells[1]));
  return (headed ? rows.slice(1) : rows).map((cells) => ({
    name: (cells[0] ?? "").trim(),
    many: whole(cells[1]) ? Number(cells[1]) : null,
  }));
}

/** The lines of what is pasted, where they are several: taken as a list then, and not as one text. */
export function pastedLines(event: ClipboardEvent): Line[] | null {
  const lines = linesOf(event.clipboardData?.getData("text") ?? "");
  if (lines.length < 2) return null;
  event.preventDefault();
  return lines;
}

/** How many samples each treatment gets by a saying such as “4, controls 8” or “1 each, hemp 6”; where it is
 * no such saying, the piece that is not understood.
 */
export function numbersBy(
  saying: string,
  treatments: readonly Pick<Treatment, "name" | "kind" | "samples">[],
): number[] | string {
  let found = treatments.map((one) => one.samples);
  for (const piece of saying.split(/[,;]/)) {
    const words = piece.trim();
    const read = /^(?:(?<name>.*?)\s+)?(?<many>\d{1,4})(?:\s+(?:of\s+)?(?<after>.+))?$/.exec(words);
    if (!read?.groups) return words;
    const whom = (read.groups.name ?? read.groups.after ?? "").toLowerCase();
    const every = ["", "each", "of each", "all", "every one"].includes(whom);
    const controls = /^controls?$/.test(whom);
    const many = Number(read.groups.many);
    const meant = treatments.map(
      (one) => every || (controls ? one.kind !== "treatment" : one.name.toLowerCase().includes(whom)),
    );
    if (many < 1 || !meant.includes(true)) return words;
    found = found.map((now, i) => (meant[i] ? many : now));
  }
  return found;
}
