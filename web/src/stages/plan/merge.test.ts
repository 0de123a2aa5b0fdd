import { sure } from "@/parts/sure";
import { expect, it } from "vitest";

import { differing, merged } from "./merge";

const plan = () => ({
  title: "Peas",
  question: "Which?",
  layout: { kind: "random", stagger: 0 },
  treatments: [
    { key: "a", name: "Dry", samples: 4 },
    { key: "b", name: "Wet", samples: 4 },
  ],
  steps: [1, 2],
});

it("takes over what only one side changed", () => {
  const mine = { ...plan(), question: "Which soak?" };
  const theirs = {
    ...plan(),
    title: "Peas, soaked",
    treatments: [{ key: "a", name: "Dry", samples: 6 }, sure(plan().treatments[1])],
  };
  const { plan: both, clashes } = merged(plan(), mine, theirs);
  expect(both).toEqual({ ...theirs, question: "Which soak?" });
  expect(clashes).toEqual([]);
});

it("lets theirs stand where both changed the same thing, and hands mine back", () => {
  const mine = plan();
  sure(mine.treatments[0]).name = "Sown dry";
  sure(mine.treatments[0]).samples = 8;
  const theirs = plan();
  sure(theirs.treatments[0]).name = "Not soaked";
  const { plan: both, clashes } = merged(plan(), mine, theirs);
  expect(both.treatments[0]).toEqual({ key: "a", name: "Not soaked", samples: 8 });
  expect(clashes).toEqual([{ at: "treatments.0.name", mine: "Sown dry", theirs: "Not soaked" }]);
});

it("keeps entries that either side added, and drops what either took out untouched", () => {
  const mine = { ...plan(), treatments: [...plan().treatments, { key: "c", name: "Tea", samples: 4 }] };
  const theirs = {
    ...plan(),
    treatments: [sure(plan().treatments[1]), { key: "d", name: "Milk", samples: 4 }],
  };
  const { plan: both } = merged(plan(), mine, theirs);
  expect(both.treatments.map((one) => one.key)).toEqual(["b", "d", "c"]);
});

it("does not lose an entry that one side took out while the other worked on it", () => {
  const mine = plan();
  sure(mine.treatments[0]).name = "Sown dry";
  const theirs = { ...plan(), treatments: [sure(plan().treatments[1])] };
  expect(merged(plan(), mine, theirs).plan.treatments.map((one) => one.name)).toEqual(["Wet", "Sown dry"]);
  expect(merged(plan(), theirs, mine).plan.treatments.map((one) => one.name)).toEqual(["Sown dry", "Wet"]);
});

it("does not mix two kinds of the same thing", () => {
  const mine = { ...plan(), layout: { kind: "pairs", stagger: 0 } };
  const theirs = { ...plan(), layout: { kind: "latin", stagger: 5 } };
  const { plan: both, clashes } = merged(plan(), mine, theirs);
  expect(both.layout).toEqual(theirs.layout);
  expect(clashes.map((one) => one.at)).toEqual(["layout"]);
});

it("names the parts that differ", () => {
  expect(differing(plan(), { ...plan(), title: "x", steps: [1] })).toEqual(["title", "steps"]);
});
