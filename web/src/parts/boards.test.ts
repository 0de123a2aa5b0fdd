import { expect, it } from "vitest";

import { boardsOf } from "./boards";
import type { Schemas } from "@/shell/api/client";

const tag = (code: string, more: Partial<Schemas["TagOut"]>): Schemas["TagOut"] => ({
  id: code,
  code,
  check: "K",
  block: "",
  place: 1,
  plot: null,
  row: null,
  column: null,
  looks: 0,
  set_aside: null,
  letter: null,
  ...more,
});
const course = (layout: Schemas["CourseOut"]["layout"], blocks: Schemas["BlockOut"][] = []) => ({
  layout,
  blocks,
  plot_word: "bed",
});

it("makes a board of each block, without a grid where there is none", () => {
  const boards = boardsOf(
    [tag("1", { block: "n" }), tag("2", { block: "s" })],
    course("blocks", [
      { key: "n", name: "North", note: "shade" },
      { key: "s", name: "South", note: "" },
    ]),
  );
  expect(boards.map((one) => [one.name, one.note, one.columns, one.tags.length])).toEqual([
    ["North", "shade", 0, 1],
    ["South", "", 0, 1],
  ]);
});

it("lays a square out in its rows and columns, and numbers several", () => {
  const cells = [1, 2].flatMap((row) =>
    [1, 2, 3].map((column) => tag(`${row}${column}`, { plot: 1, row, column })),
  );
  expect(boardsOf(cells, course("latin"))).toMatchObject([{ name: "", columns: 3 }]);
  expect(
    boardsOf([...cells, tag("9", { plot: 2, row: 1, column: 1 })], course("latin")).map((one) => one.name),
  ).toEqual(["Square 1", "Square 2"]);
});

it("names whole plots by their own word, and sets pairs side by side", () => {
  expect(
    boardsOf([tag("1", { plot: 1 }), tag("2", { plot: 2 })], course("split")).map((one) => one.name),
  ).toEqual(["Bed 1", "Bed 2"]);
  expect(boardsOf([tag("1", { plot: 1 }), tag("2", { plot: 1 })], course("pairs"))).toMatchObject([
    { columns: 2, name: "" },
  ]);
  expect(boardsOf([], course("random"))).toHaveLength(1);
});
