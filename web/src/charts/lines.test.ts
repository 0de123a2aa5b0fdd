import { describe, expect, it } from "vitest";

import { DASHES, pushedApart } from "./lines";

describe("labels at the ends of lines", () => {
  it("stay where they are with room between them", () => {
    expect(
      pushedApart(
        [
          { y: 10, name: "a" },
          { y: 50, name: "b" },
        ],
        20,
      ),
    ).toEqual([
      { y: 10, name: "a" },
      { y: 50, name: "b" },
    ]);
  });
  it("are pushed down where they would lie on each other, from the top", () => {
    const labels = [
      { y: 12, name: "b" },
      { y: 10, name: "a" },
      { y: 13, name: "c" },
      { y: 90, name: "d" },
    ];
    expect(pushedApart(labels, 20)).toEqual([
      { y: 10, name: "a" },
      { y: 30, name: "b" },
      { y: 50, name: "c" },
      { y: 90, name: "d" },
    ]);
  });
  it("leaves what it was given alone", () => {
    const labels = [{ y: 5 }, { y: 5 }];
    pushedApart(labels, 20);
    expect(labels).toEqual([{ y: 5 }, { y: 5 }]);
  });
  it("has a line style of its own for each of the eight hues", () => {
    expect(new Set(DASHES).size).toBe(8);
  });
});
