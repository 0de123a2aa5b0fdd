import { describe, expect, it } from "vitest";

import { everywhere } from "./where";

const place = (winner: string | null) => ({ place: "x", winner, means: [], won: null });
const told = (changes: boolean, ...winners: (string | null)[]) =>
  everywhere({ changes, places: winners.map(place) });

describe("who wins where", () => {
  it("is the same one everywhere only where it is so", () => {
    expect(told(false, "Moss", "Moss")).toBe("Moss comes first everywhere.");
    expect(told(true, "Moss", "Straw")).toBe("Not the same one comes first everywhere.");
  });

  it("is nobody where all are tied, and is told where some are", () => {
    expect(told(false, null, null)).toBe("Nowhere does one come first: all are level.");
    expect(told(false, "Moss", null, null)).toBe("Moss comes first in 1 of 3; elsewhere none does.");
  });
});
