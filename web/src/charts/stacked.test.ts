import { expect, it } from "vitest";

import { columned, stacked } from "./stacked";

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

it("counts very many in columns and loses nothing", () => {
  const values = Array.from({ length: 500 }, (_, i) => (i * i) % 97);
  const columns = columned(
    values,
    (value) => value,
    10,
    (value) => value % 7 === 0,
  );
  expect(columns.length).toBeLessThan(12);
  expect(columns.reduce((sum, one) => sum + one.many + one.aside, 0)).toBe(500);
  expect(columns.reduce((sum, one) => sum + one.aside, 0)).toBe(values.filter((one) => one % 7 === 0).length);
});
