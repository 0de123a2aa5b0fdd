import { describe, expect, it } from "vitest";

import { bestOf, fit, MOST_FOUND, type Found } from "./found";

const one = (name: string, says = "", kind = "page"): Found => ({ key: name, kind, name, says, to: "/" });

describe("the finder", () => {
  it("puts names that begin so before those that only hold it", () => {
    const rows = [one("Bench sums"), one("A bench of peas"), one("Workbench"), one("Shelf", "of the bench")];
    expect(bestOf(rows, "ben").map((row) => row.name)).toEqual([
      "Bench sums",
      "A bench of peas",
      "Workbench",
      "Shelf",
    ]);
  });

  it("wants every word, in any order and case", () => {
    expect(fit(one("Cut dahlias in the vase"), "VASE cut")).not.toBeNull();
    expect(fit(one("Cut dahlias in the vase"), "cut peas")).toBeNull();
  });

  it("tells each thing once, and no more than fit", () => {
    expect(bestOf([one("Peas"), one("Peas", "told by the server")], "peas")).toHaveLength(1);
    expect(
      bestOf(
        Array.from({ length: 40 }, (_, i) => one(`Peas ${i}`)),
        "peas",
      ),
    ).toHaveLength(MOST_FOUND);
  });
});
