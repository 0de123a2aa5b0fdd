/** The log in days, and what can be sought in it. */
import { wholeDay } from "@/parts/moments";
import type { Schemas } from "@/shell/api/client";

export type LogEntry = Schemas["LogEntry"];

export const KINDS: Record<string, string[]> = {
  readings: ["value", "cannot", "withdrawn"],
  notes: ["note"],
  "what went otherwise": [
    "set_aside",
    "left_out",
    "marked",
    "put_back",
    "difference",
    "skipped",
    "no_outcome",
    "split",
    "amended",
  ],
  preparing: [
    "given",
    "started",
    "cycle",
    "shuffled",
    "uncovered",
    "key_look",
    "knew_key",
    "sealed",
    "drawn_up",
  ],
};

export const WHAT: Record<string, string> = {
  set_aside: "left out altogether",
  left_out: "left out from then on",
  marked: "kept, and marked",
  put_back: "put back",
  no_outcome: "was withdrawn",
  split: "is measured in another way from then on",
  drawn_up: "brought in from a table; its plan was drawn up afterwards",
  knew_key: "knew what stands where when the plan was sealed; their rounds count as open",
  key_look: "looked at the key to prepare the samples; their rounds count as open from here on",
  sealed: "Plan sealed, codes drawn",
  started: "Exposure started",
  opened: "Key opened",
  amended: "Plan amended",
  difference: "was not held equal",
  skipped: "was skipped",
  cycle: "A cycle was counted",
  given: "Given",
  shuffled: "Shuffled by hand: nobody knows the key",
  uncovered: "The covers came off",
};

/** The entries of a kind that hold all words of what is sought. */
export function soughtIn(entries: readonly LogEntry[], sought: string, kind: string): LogEntry[] {
  const words = sought.trim().toLowerCase().split(/\s+/).filter(Boolean);
  return entries.filter((entry) => {
    if (kind && !KINDS[kind]?.includes(entry.what)) return false;
    const { code, accident, outcome, checkpoint, reason, words: told, by, source } = entry;
    const text = [code, accident, outcome, checkpoint, reason, told, by, WHAT[entry.what] ?? "", source]
      .join(" ")
      .toLowerCase();
    return words.every((word) => text.includes(word));
  });
}

export interface LogDay {
  name: string;
  entries: LogEntry[];
  /** What stands in it, in a line. */
  inside: string;
}

const counted = (n: number, one: string) => `${n.toLocaleString("en")} ${one}${n === 1 ? "" : "s"}`;

/** The entries by their day in the trial's zone, newest first. */
export function byDay(entries: readonly LogEntry[], zone: string): LogDay[] {
  const days = new Map<string, LogEntry[]>();
  for (const entry of entries) {
    const name = wholeDay(entry.at, zone);
    const own = days.get(name);
    if (own) own.push(entry);
    else days.set(name, [entry]);
  }
  return [...days].map(([name, own]) => {
    const readings = own.filter((one) => KINDS.readings?.includes(one.what)).length;
    const notes = own.filter((one) => one.what === "note").length;
    const rest = own.length - readings - notes;
    const inside = [
      readings ? counted(readings, "reading") : "",
      notes ? counted(notes, "note") : "",
      rest ? `${rest.toLocaleString("en")} other` : "",
    ];
    return { name, entries: own, inside: inside.filter(Boolean).join(", ") };
  });
}
