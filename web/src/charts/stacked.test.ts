import { expect, it } from "vitest";

import { stacked } from "./stacked";

it("stacks what would overlap and loses nothing", () => {
  const dots = stacked([10, 30, 11, 10, 50], (value) => value, 10);
  expect(dots.map((dot) => dot.of).sort()).toEqual([10, 10, 11, 30, 50]);
  expect(dots.map((dot) => [dot.x, dot.level])).toEqual([
    [10, 0],
    [10, 1],
    [11, 2],
    [30, 0],
    [50, 0],
  ]);
});
