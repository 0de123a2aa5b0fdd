import { expect, it } from "vitest";

import { shelved, type ShelfTrial } from "./shelf";

const trial = (title: string, more: Partial<ShelfTrial> = {}): ShelfTrial => ({
  id: title,
  title,
  question: "",
  state: "running",
  origin: "",
  role: "lead",
  is_tasting: false,
  zone: "UTC",
  sample_word: "box",
  sample_words: "boxes",
  samples: 4,
  started_at: null,
  opened_at: null,
  may_score: true,
  filed: false,
  created_at: "2026-01-01T00:00:00Z",
  checkpoints: [],
  ...more,
});
const look = (standing: string, due = "2026-05-01T00:00:00Z") =>
  ({ key: standing, name: standing, standing, due }) as ShelfTrial["checkpoints"][number];
const told = (groups: ReturnType<typeof shelved>) =>
  groups.map((one) => [one.key, one.trials.map((each) => each.title)]);

const SHELF = [
  trial("Old", { state: "opened" }),
  trial("Draft", { state: "draft" }),
  trial("Late", { checkpoints: [look("late")] }),
  trial("Due", { checkpoints: [look("due")] }),
  trial("Runs", { checkpoints: [look("upcoming")] }),
  trial("Not mine to score", { checkpoints: [look("due")], may_score: false }),
  trial("Away", { filed: true, checkpoints: [look("due")] }),
];

it("puts what waits first and what was filed away last", () => {
  expect(told(shelved(SHELF, "", "due"))).toEqual([
    ["waiting", ["Due", "Late"]],
    ["running", ["Runs", "Not mine to score"]],
    ["planned", ["Draft"]],
    ["concluded", ["Old"]],
    ["filed", ["Away"]],
  ]);
});

it("finds by all words in title or question", () => {
  const rows = [trial("Beans", { question: "Which mulch holds water?" }), trial("Peas")];
  expect(told(shelved(rows, "WATER beans", "due"))).toEqual([["running", ["Beans"]]]);
  expect(shelved(rows, "water peas", "due")).toEqual([]);
});

it("goes by name or by age where that is wanted", () => {
  const rows = [trial("B", { created_at: "2026-03-01T00:00:00Z" }), trial("A"), trial("C")];
  expect(told(shelved(rows, "", "name"))).toEqual([["running", ["A", "B", "C"]]]);
  expect(told(shelved(rows, "", "newest"))[0]?.[1]?.[0]).toBe("B");
});
