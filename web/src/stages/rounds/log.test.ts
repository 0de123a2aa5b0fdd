import { expect, it } from "vitest";

import { byDay, soughtIn, type LogEntry } from "./log";

const entry = (at: string, more: Partial<LogEntry> = {}): LogEntry => ({
  at,
  by: "Robin",
  what: "value",
  code: "101",
  outcome: "Height",
  checkpoint: "Day 1",
  value: 3,
  words: "",
  old_value: null,
  reason: "",
  replaced: false,
  source: "",
  accident: "",
  since: null,
  written_at: null,
  photos: [],
  again: null,
  ...more,
});

it("goes by the day in the trial's zone, and says what stands in each", () => {
  const rows = [
    entry("2026-05-02T23:30:00Z"),
    entry("2026-05-02T12:00:00Z", { what: "note", words: "hail" }),
    entry("2026-05-02T11:00:00Z", { what: "started" }),
  ];
  expect(byDay(rows, "UTC").map((one) => [one.name, one.inside])).toEqual([
    ["Sat, 2 May 2026", "1 reading, 1 note, 1 other"],
  ]);
  expect(byDay(rows, "Europe/Berlin").map((one) => one.name)).toEqual(["Sun, 3 May 2026", "Sat, 2 May 2026"]);
});

it("finds by all words and by kind", () => {
  const rows = [
    entry("2026-05-02T12:00:00Z", { what: "note", words: "Hail at noon" }),
    entry("2026-05-02T12:00:00Z"),
  ];
  expect(soughtIn(rows, "hail ROBIN", "")).toHaveLength(1);
  expect(soughtIn(rows, "", "readings")).toHaveLength(1);
  expect(soughtIn(rows, "frost", "")).toEqual([]);
});
