import { sure } from "@/parts/sure";
import { expect, it } from "vitest";

import { bars } from "./learned";

it("draws a set's bar as high as it was off, and the limit among them", () => {
  const sets = [
    { number: 1, n: 12, off: 10, bias: 2, exact: 3 },
    { number: 2, n: 12, off: 5, bias: 0, exact: 6 },
  ];
  const drawn = bars(sets, 5, 240, 100);
  expect(drawn.bars.map((one) => one.height)).toEqual([100, 50]);
  expect(drawn.bars.map((one) => one.good)).toEqual([false, true]);
  expect(drawn.limit).toBe(50);
  expect(sure(drawn.bars[1]).x).toBeGreaterThan(sure(drawn.bars[0]).x + drawn.wide);
});

it("stands still where nothing was off", () => {
  expect(sure(bars([{ number: 1, n: 12, off: 0, bias: 0, exact: 12 }], 0.5, 240, 100).bars[0]).height).toBe(
    0,
  );
});
