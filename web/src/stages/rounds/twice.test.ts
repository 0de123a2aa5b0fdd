import { expect, it } from "vitest";

import { sameGiven, shownGiven } from "./twice";

const cell = (more: object) => ({ value: null, words: "", responses: null, ...more });

it("tells two typings of a score apart, on every kind of scale", () => {
  expect(sameGiven(cell({ value: 3 }), 3)).toBe(true);
  expect(sameGiven(cell({ value: 0.3 }), 0.1 + 0.2)).toBe(true);
  expect(sameGiven(cell({ value: 3 }), 4)).toBe(false);
  expect(sameGiven(cell({}), 0)).toBe(false);
  expect(sameGiven(cell({ words: "soft " }), "soft")).toBe(true);
  expect(sameGiven(cell({ responses: [1, 2] }), [1, 2])).toBe(true);
  expect(sameGiven(cell({ responses: [1, 2] }), [1, 2, 3])).toBe(false);
  expect(sameGiven(cell({ responses: [1, 2] }), [1, 2.5])).toBe(false);
});

it("reads the first one as it was typed", () => {
  expect(
    shownGiven(cell({ value: 2.5 }), {
      kind: "measurement",
      unit: "mL",
      resolution: null,
      low: null,
      high: null,
    }),
  ).toBe("2.5 mL");
  expect(shownGiven(cell({ words: "brown" }), { kind: "note", prompt: "" })).toBe("brown");
  expect(shownGiven(cell({ value: 1 }), { kind: "passfail", pass_word: "held", fail_word: "broke" })).toBe(
    "held",
  );
});
