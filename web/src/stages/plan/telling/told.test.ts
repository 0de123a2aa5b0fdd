import { describe, expect, it } from "vitest";

import { isBare, lettersOf, pieceOf, placeIn, runsOf, withTold, type Told, type WordMark } from "./told";
import type { Plan } from "../usePlan";

const bare = {
  question: "",
  sample_word: "sample",
  pieces: 1,
  piece_word: "",
  treatments: [],
  outcomes: [],
  checkpoints: [],
  layout: { kind: "random", blocks: [] },
  fairness: [],
  cycle_word: "",
  cycle_minutes: null,
  begun: null,
} as unknown as Plan;

const told: Told = {
  treatments: [
    { name: "Jute", kind: "standard", samples: null, unnamed: false },
    { name: "Hemp", kind: "treatment", samples: 7, unnamed: false },
  ],
  each: 5,
  sample: "length",
  pieces: 1,
  piece: "",
  places: ["Sunny fence", "Shaded arch"],
  outcomes: [
    {
      name: "Load",
      scale: { kind: "measurement", unit: "kg", resolution: null, low: null, high: null },
      better: "more",
      open: "",
    },
  ],
  looks: [
    { name: "Before the start", offset: 0, cycle: null, baseline: true },
    { name: "Day 4", offset: 5760, cycle: null, baseline: false },
    { name: "Day 8", offset: 11520, cycle: null, baseline: false },
  ],
  cycle_word: "",
  blind: true,
  begun: false,
  question: "Which twine?",
  marks: [],
  asked: [],
};

describe("a trial told in words", () => {
  it("becomes the parts of a plan that it tells of", () => {
    const plan = withTold(bare, told);
    expect(plan.treatments.map((one) => [one.name, one.kind, one.samples])).toEqual([
      ["Jute", "standard", 5],
      ["Hemp", "treatment", 7],
    ]);
    expect(plan.layout.kind).toBe("blocks");
    expect(plan.layout.blocks.map((one) => one.name)).toEqual(["Sunny fence", "Shaded arch"]);
    expect(plan.outcomes[0]?.primary).toBe(true);
    expect(plan.checkpoints.map((one) => [one.name, one.baseline, one.before])).toEqual([
      ["Before the start", true, 0],
      ["Day 4", false, 720],
      ["Day 8", false, 720],
    ]);
    expect([plan.sample_word, plan.question]).toEqual(["length", "Which twine?"]);
    expect(plan.fairness).toEqual([{ item: "blind", kept: true, reason: "" }]);
    expect(new Set(plan.treatments.map((one) => one.key)).size).toBe(2);
  });
  it("leaves what nobody told of as it is", () => {
    const mine = { ...bare, question: "Mine?", sample_word: "pot" };
    const plan = withTold(mine, { ...told, treatments: [], places: [], outcomes: [], looks: [], sample: "" });
    expect([plan.question, plan.sample_word, plan.layout.kind]).toEqual(["Mine?", "pot", "random"]);
  });
  it("is first asked of a plan that holds nothing", () => {
    expect(isBare(bare)).toBe(true);
    expect(isBare(withTold(bare, told))).toBe(false);
  });
});

describe("marks at words", () => {
  const mark = (begin: number, end: number): WordMark => ({ begin, end, part: "treatment", says: "x" });
  it("stand where the server counted them, also behind letters of two parts", () => {
    const text = "🌱 jute or hemp";
    expect(pieceOf(text, 2, 6)).toBe("jute");
    expect(placeIn(text, text.indexOf("hemp"))).toBe(10);
    expect(lettersOf("🌱a")).toEqual(["🌱", "a"]);
    expect(runsOf(text, [mark(2, 6), mark(10, 14)]).map((run) => [run.text, Boolean(run.mark)])).toEqual([
      ["🌱 ", false],
      ["jute", true],
      [" or ", false],
      ["hemp", true],
    ]);
  });
});
