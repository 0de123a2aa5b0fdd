import { sure } from "@/parts/sure";
import { expect, it } from "vitest";

import { cellsOf, renamed } from "./factors";
import { treatment } from "./fresh";

const level = (key: string, name: string) => ({ key, name });
const soil = { key: "s", name: "Soil", hard: false, levels: [level("a", "Sand"), level("b", "Loam")] };
const water = { key: "w", name: "Water", hard: false, levels: [level("c", "Dry"), level("d", "Wet")] };
const sandWet = () => treatment({ key: "t", name: "Sand, Wet", levels: { s: "a", w: "d" } });

it("lays the last factor across and finds the treatments that are taken", () => {
  const grid = cellsOf({ factors: [soil, water], treatments: [sandWet()] });
  expect(grid.columns.map((one) => one.name)).toEqual(["Dry", "Wet"]);
  expect(grid.rows.map((row) => row.name)).toEqual(["Sand", "Loam"]);
  expect(grid.rows.map((row) => row.cells.map((cell) => cell.treatment))).toEqual([
    [null, "t"],
    [null, null],
  ]);
});

it("shows one factor as one row, none as nothing, and too many not at all", () => {
  expect(
    cellsOf({ factors: [soil], treatments: [] }).rows.map((row) => row.cells.map((cell) => cell.name)),
  ).toEqual([["Sand", "Loam"]]);
  expect(cellsOf({ factors: [], treatments: [] }).rows).toEqual([]);
  const wide = { ...soil, levels: Array.from({ length: 30 }, (_, i) => level(String(i), String(i))) };
  expect(cellsOf({ factors: [wide, { ...wide, key: "x" }], treatments: [] }).rows).toEqual([]);
});

it("carries a level's new name to the treatments called by it, and to no other", () => {
  const plan = {
    factors: [structuredClone(soil), water],
    treatments: [sandWet(), treatment({ name: "My own", levels: { s: "a", w: "c" } })],
  };
  renamed(plan, () => (sure(sure(plan.factors[0]).levels[0]).name = "Sharp sand"));
  expect(plan.treatments.map((one) => one.name)).toEqual(["Sharp sand, Wet", "My own"]);
});
