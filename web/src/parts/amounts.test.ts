import { describe, expect, it } from "vitest";

import { sure } from "./sure";
import cases from "../../../cases/figures.json";
import { amount, difference, honest, reading, scaleWords, type Scale } from "./amounts";
import { typed } from "./typed";

const grade: Scale = {
  kind: "grade",
  levels: [0, 1, 2].map((value) => ({ value, label: String(value), anchor: "" })),
};
const millilitres: Scale = { kind: "measurement", unit: "mL", resolution: null, low: 0, high: 400 };
const seeds: Scale = { kind: "count", of: 20, what: "seeds" };
const petals: Scale = { kind: "passfail", pass_word: "all on", fail_word: "some fallen" };

describe("honest digits", () => {
  it.each([
    [17.125, "17.1"],
    [1234.5, "1235"],
    [0.02857, "0.0286"],
    [-3.96, "−3.96"],
    [20, "20"],
    [-0.0000000000001, "0"],
  ])("%d is %s", (value, words) => expect(honest(value)).toBe(words));
});

it("tells values with their unit", () => {
  expect(amount(17.125, seeds)).toBe("17.1 of 20");
  expect(amount(0.625, petals)).toBe("63 %");
  expect(difference(-1.5, seeds)).toBe("−1.5 seeds");
  expect(difference(0.25, petals)).toBe("+25 points");
  expect(reading(0, petals)).toBe("some fallen");
  expect(scaleWords(grade)).toBe("grade 0 to 2");
});

describe("what is typed", () => {
  it.each<[string, Scale, number]>([
    ["2", grade, 2],
    [" 12,5 ", millilitres, 12.5],
    ["20", seeds, 20],
    ["y", petals, 1],
    ["Some Fallen", petals, 0],
  ])("%s is understood", (text, scale, value) => expect(typed(text, scale)).toBe(value));

  it.each<[string, Scale, RegExp]>([
    ["", grade, /missing/],
    ["3", grade, /0, 1, 2/],
    ["-1", millilitres, /below the plausible/],
    ["401", millilitres, /above the plausible/],
    ["1e", millilitres, /not a number/],
    ["2.5", seeds, /whole/],
    ["21", seeds, /more than the 20/],
    ["maybe", petals, /neither all on \(1\) nor/],
  ])("%s is refused in a sentence", (text, scale, says) => expect(typed(text, scale)).toMatch(says));
});

describe("every other scale", () => {
  const shade: Scale = {
    kind: "shade",
    between: true,
    steps: [
      { label: "pale", swatch: "" },
      { label: "deep", swatch: "" },
    ],
  };
  const ladder: Scale = { kind: "ladder", unit: "kg", steps: [5, 10], repeats: 1 };
  const curve: Scale = {
    kind: "curve",
    unit: "mm",
    step_unit: "kg",
    steps: [1, 2],
    number: "slope",
    through_zero: false,
  };
  const event: Scale = { kind: "event", what: "a crack" };
  const percent: Scale = { kind: "percent", what: "browned", resolution: 5 };

  it("tells estimates and differences with their unit", () => {
    expect(amount(1.5, shade)).toBe("step 1.5");
    expect(amount(0.4, event)).toBe("40 %");
    expect(amount(1.95, curve)).toBe("1.95 mm per kg");
    expect(difference(-2, ladder)).toBe("−2 kg");
    expect(difference(3, percent)).toBe("+3 points");
    expect(difference(1, shade)).toBe("+1 step");
    expect(difference(-0.2, event)).toBe("−20 points");
  });

  it("tells single readings in words where there are any", () => {
    expect(reading(1.5, shade)).toBe("between pale and deep");
    expect(reading(2, shade)).toBe("deep");
    expect(reading(0, ladder)).toBe("held nothing");
    expect(reading(10, ladder)).toBe("held 10 kg");
    expect(reading(0, event)).toBe("not yet");
    expect(reading(35, percent)).toBe("35 %");
  });

  it("names itself in a few words", () => {
    expect(
      [shade, ladder, curve, event, percent, { kind: "note", prompt: "" } as Scale].map(scaleWords),
    ).toEqual([
      "a chart of 2 shades",
      "rising load to 10 kg",
      "mm at 2 steps of kg",
      "when it happens: a crack",
      "percent browned",
      "in words",
    ]);
  });
});

it("tells figures as the core tells them", () => {
  const scales = cases.scales as unknown as Record<string, Scale>;
  const told = (of: typeof amount, rows: (string | number)[][]) =>
    rows.map(([name, value]) => [name, value, of(Number(value), sure(scales[String(name)]))]);
  expect(told(amount, cases.amounts)).toEqual(cases.amounts);
  expect(told(difference, cases.differences)).toEqual(cases.differences);
});
