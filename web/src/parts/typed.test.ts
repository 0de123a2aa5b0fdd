import { expect, it } from "vitest";

import letters from "../../../cases/letters.json";
import rounding from "../../../cases/rounding.json";
import cases from "../../../cases/typed.json";
import { honest, type Scale } from "./amounts";
import { letterOf, placeOf } from "./letters";
import { typed } from "./typed";

it.each(cases.map((one) => [JSON.stringify(one.scale).slice(0, 70), one] as const))(
  "reads what is typed as the core does: %s",
  (_, { scale, typed: rows }) => {
    const read = rows.map(([text]) => [text, typed(String(text), scale as unknown as Scale)]);
    expect(read).toEqual(rows);
  },
);

it("tells numbers with the digits that the core tells", () => {
  const told = rounding.map(({ value, digits }) => honest(value, digits).replace("−", "-"));
  expect(told).toEqual(rounding.map((one) => one.told));
});

it("gives a treatment the letter that the core gives it", () => {
  expect(letters.map((_, place) => letterOf(place))).toEqual(letters);
  expect(letters.map(placeOf)).toEqual(letters.map((_, place) => place));
  expect(letterOf(-1)).toBe("");
});
