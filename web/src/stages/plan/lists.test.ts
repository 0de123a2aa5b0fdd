import { describe, expect, it } from "vitest";

import { linesOf, numbersBy } from "./lists";

describe("a pasted list", () => {
  it("is a treatment a line, without bullets and numbers", () => {
    expect(linesOf("1. Beer\n2. Copper\r\n\n- Grit\n")).toEqual([
      { name: "Beer", many: null },
      { name: "Copper", many: null },
      { name: "Grit", many: null },
    ]);
  });
  it("may be rows of a sheet, with a head or without", () => {
    const rows = [
      { name: "Peat", many: 8 },
      { name: "Coir", many: 6 },
    ];
    expect(linesOf("Treatment\tPots\nPeat\t8\nCoir\t6")).toEqual(rows);
    expect(linesOf("Peat; 8\nCoir; 6")).toEqual(rows);
  });
});

describe("numbers for all", () => {
  const all = [
    { name: "Hemp, waxed", kind: "treatment" as const, samples: 4 },
    { name: "Jute, waxed", kind: "treatment" as const, samples: 4 },
    { name: "Jute", kind: "standard" as const, samples: 4 },
  ];
  it("are the same, but for controls, or for those of a level", () => {
    expect(numbersBy("1 each", all)).toEqual([1, 1, 1]);
    expect(numbersBy("4, controls 8", all)).toEqual([4, 4, 8]);
    expect(numbersBy("3; waxed 6", all)).toEqual([6, 6, 3]);
    expect(numbersBy("hemp 9", all)).toEqual([9, 4, 4]);
  });
  it("tell what is not understood", () => {
    expect(numbersBy("many", all)).toBe("many");
    expect(numbersBy("4, sisal 8", all)).toBe("sisal 8");
    expect(numbersBy("0", all)).toBe("0");
  });
});
