import { expect, test } from "vitest";

import { windowsOf } from "./windows";

const DAY = 1440;

test("windows are a quarter of the way to the nearest neighbour", () => {
  expect(windowsOf([120, 240, DAY])).toEqual([30, 30, 300]);
  expect(windowsOf([4])).toEqual([0]);
  expect(windowsOf([])).toEqual([]);
});

test("windows of looks that lie far apart are wider, and never overlap", () => {
  expect(windowsOf([5 * DAY, 10 * DAY])).toEqual([DAY / 2, DAY / 2]);
  expect(windowsOf([14 * DAY, 28 * DAY])).toEqual([DAY, DAY]);
  expect(windowsOf([30 * DAY, 61 * DAY, 91 * DAY])).toEqual([3 * DAY, 3 * DAY, 3 * DAY]);
});
