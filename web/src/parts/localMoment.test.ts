import { expect, it } from "vitest";

import { fieldOf, momentIn } from "./localMoment";

it("goes from a moment to a field and back, to the minute", () => {
  const at = new Date(2026, 2, 4, 5, 6, 40);
  expect(fieldOf(at)).toBe("2026-03-04T05:06");
  expect(new Date(momentIn(fieldOf(at))).getTime()).toBe(new Date(2026, 2, 4, 5, 6).getTime());
});

it("means now by the minute that it is now, and by nothing at all", () => {
  for (const field of [fieldOf(new Date()), ""])
    expect(Math.abs(Date.parse(momentIn(field)) - Date.now())).toBeLessThan(61_000);
  expect(Date.parse(momentIn(fieldOf(new Date())))).toBeGreaterThan(Date.now() - 2_000);
});
