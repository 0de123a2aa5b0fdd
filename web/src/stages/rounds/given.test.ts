import { sure } from "@/parts/sure";
import { mount } from "@vue/test-utils";
import { describe, expect, it } from "vitest";

import ScorePads from "./ScorePads.vue";
import SheetCell from "./SheetCell.vue";
import { givenIn } from "./given";
import { saidOf, type Given, type Outcome } from "./useRound";
import type { Scale } from "@/parts/amounts";

const SHADE: Scale = {
  kind: "shade",
  between: false,
  steps: [
    { label: "pale", swatch: "#ffeecc" },
    { label: "deep", swatch: "" },
  ],
};
const LADDER: Scale = { kind: "ladder", unit: "kg", steps: [5, 10], repeats: 1 };
const CURVE: Scale = {
  kind: "curve",
  unit: "mm",
  step_unit: "kg",
  steps: [1, 2, 3],
  number: "slope",
  through_zero: false,
};
const EVENT: Scale = { kind: "event", what: "a crack" };
const NOTE: Scale = { kind: "note", prompt: "What strikes you?" };
const outcome = (scale: Scale): Outcome => ({
  key: "o",
  name: "Thing",
  group: "",
  scale,
  checkpoints: [],
  retest: "median" as const,
  wait: null,
  wait_says: "",
});

describe("what was meant by what was typed", () => {
  it.each<[Scale, string, Given]>([
    [SHADE, "Deep", 2],
    [SHADE, "1", 1],
    [{ ...SHADE, between: true }, "1.5", 1.5],
    [LADDER, "0", 0],
    [LADDER, "10", 10],
    [EVENT, "seen", 1],
    [EVENT, "not yet", 0],
    [{ kind: "percent", what: "", resolution: 5 }, "35", 35],
    [CURVE, "2 4,1 6.0", [2, 4.1, 6]],
    [CURVE, "−1, 0, 2", [-1, 0, 2]],
    [CURVE, "2 - 6", [2, null, 6]],
    [NOTE, "  smells of tar ", "smells of tar"],
  ])("reads %j %s", (scale, text, given) => expect(givenIn(text, scale)).toEqual({ given, says: "" }));

  it.each<[Scale, string, string]>([
    [SHADE, "1.5", "is not a step of this chart, which has 2."],
    [LADDER, "7", "its steps are 0, 5, 10 kg."],
    [EVENT, "maybe", "neither seen (1) nor not yet (0)"],
    [{ kind: "percent", what: "", resolution: 5 }, "120", "between 0 and 100 %"],
    [CURVE, "2", "1 of 3 steps have a value."],
    [CURVE, "1 2 3 4", "4 values for 3 steps."],
    [CURVE, "2 four 6", "Numbers only"],
    [NOTE, " ", "There are no words yet."],
  ])("says what is wrong with %j %s", (scale, text, says) => {
    const found = givenIn(text, scale);
    expect(found.given).toBeUndefined();
    expect(found.says).toContain(says);
  });

  it("puts each in its own place of the reading", () => {
    expect([saidOf(3), saidOf("tar"), saidOf([1, 2])]).toEqual([
      { kind: "value", value: 3 },
      { kind: "value", words: "tar" },
      { kind: "value", responses: [1, 2] },
    ]);
  });
});

describe("the pads of each scale", () => {
  function pads(scale: Scale, more = {}) {
    const given: Given[] = [];
    const made = mount(ScorePads, {
      props: { outcome: outcome(scale), value: null, onGive: (one: Given) => given.push(one), ...more },
      attachTo: document.body,
    });
    return { made, given };
  }

  it("show a chart with its colours and give the step", async () => {
    const { made, given } = pads(SHADE);
    expect(made.findAll("rect").map((one) => one.attributes("fill"))).toEqual(["#ffeecc"]);
    await sure(made.findAll("button")[1]).trigger("click");
    expect(given).toEqual([2]);
  });

  it("climb a ladder from nothing to held at the top", async () => {
    const { made, given } = pads(LADDER);
    const press = (text: string) =>
      sure(made.findAll("button").find((one) => one.text().startsWith(text))).trigger("click");
    await press("It held");
    await press("It held");
    expect(made.text()).toContain("10 kg, held to the top");
    await press("Take back");
    await press("It broke");
    expect(made.text()).toContain("5 kg held");
    await press("Take back");
    await press("It held");
    await press("Keep it");
    expect(given).toEqual([10]);
  });

  it("tell an event by its words", async () => {
    const { made, given } = pads(EVENT);
    await sure(made.findAll("button")[0]).trigger("click");
    expect(made.text()).toContain("a crack");
    expect(given).toEqual([1]);
  });

  it("take a curve with a step left out, and one that ended early", async () => {
    const { made, given } = pads(CURVE, { responses: [1, 2, 3] });
    const fields = made.findAll("input");
    expect(fields.map((one) => one.element.value)).toEqual(["1", "2", "3"]);
    await sure(fields[1]).setValue("");
    await made.find("form").trigger("submit");
    expect(given).toEqual([[1, null, 3]]);
    await sure(fields[2]).setValue("");
    await made.find("form").trigger("submit");
    expect(made.text()).toContain("1 of 3 steps have a value.");
    await sure(fields[1]).setValue("2");
    await made.find("form").trigger("submit");
    await sure(fields[2]).setValue("3,5");
    await made.find("form").trigger("submit");
    expect(given).toEqual([
      [1, null, 3],
      [1, 2],
      [1, 2, 3.5],
    ]);
  });

  it("ask for words and keep none that are not there", async () => {
    const { made, given } = pads(NOTE);
    expect(made.text()).toContain("What strikes you?");
    await made.find("form").trigger("submit");
    expect(given).toEqual([]);
    await made.find("textarea").setValue(" tar ");
    await made.find("form").trigger("submit");
    expect(given).toEqual(["tar"]);
  });
});

describe("a cell of the sheet", () => {
  it("takes words with an x in them, and a whole curve", async () => {
    const cell = (scale: Scale) =>
      mount(SheetCell, {
        props: { label: "Thing", outcome: outcome(scale), cell: undefined, at: "0,0", begin: false },
        attachTo: document.body,
      });
    const words = cell(NOTE);
    await words.find("input").trigger("keydown", { key: "x" });
    expect(words.emitted("cannot")).toBeUndefined();
    await words.find("input").setValue("wax");
    await words.find("input").trigger("keydown", { key: "Enter" });
    expect(words.emitted("give")).toEqual([["wax", undefined]]);
    const curve = cell(CURVE);
    await curve.find("input").setValue("1 2 4");
    await curve.find("input").trigger("keydown", { key: "Enter" });
    expect(curve.emitted("give")).toEqual([[[1, 2, 4], undefined]]);
  });
});
