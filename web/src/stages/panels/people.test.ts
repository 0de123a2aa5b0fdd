import { expect, it } from "vitest";

import { peopleIn } from "./people";

it("reads names and the addresses beside them", () => {
  expect(
    peopleIn("Fern <fern@tools.example>, Moss;\nLark lark@tools.example\n,", "naive").map((one) => [
      one.name,
      one.address,
    ]),
  ).toEqual([
    ["Fern", "fern@tools.example"],
    ["Moss", ""],
    ["Lark", "lark@tools.example"],
  ]);
});
