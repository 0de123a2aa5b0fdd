import { describe, expect, it } from "vitest";

import { amount, difference, honest, reading, scaleWords, typed, type Scale } from "./amounts";

const grade: Scale = { kind: "grade", levels: [0, 1, 2].map((value) => ({ value, label: String(value), anchor: "" })) };
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
    ["", grade, /first/],
    ["3", grade, /0, 1, 2/],
    ["-1", millilitres, /lowest/],
    ["401", millilitres, /highest/],
    ["1e", millilitres, /not a number/],
    ["2.5", seeds, /whole/],
    ["21", seeds, /only 20/],
    ["maybe", petals, /1 for all on/],
  ])("%s is refused in a sentence", (text, scale, says) => expect(typed(text, scale)).toMatch(says));
});
