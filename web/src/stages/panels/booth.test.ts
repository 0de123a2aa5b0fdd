import { beforeEach, expect, it, vi } from "vitest";

import { deviceName, isWhole, keepOf, keptOf, sendWaiting, tapped, wayOf, type Judgement } from "./booth";

const one = (id: string): Judgement => ({ id, serving: "s", answer: [0], confidence: null, preference: null, grades: [], chips: [], words: "", given_at: "2026-01-01T00:00:00Z" });
beforeEach(() => localStorage.clear());

it("takes taps as each test means them", () => {
  expect(tapped("one", [2], 0)).toEqual([0]);
  expect(tapped("two", [], 3)).toEqual([3]);
  expect(tapped("two", [3], 3)).toEqual([]);
  expect(tapped("two", [3, 1], 0)).toEqual([1, 0]);
  expect(tapped("order", [2, 0], 1)).toEqual([2, 0, 1]);
  expect(tapped("order", [2, 0, 1], 0)).toEqual([2, 1]);
});

it("knows when an answer is whole", () => {
  expect(wayOf("triangle")).toBe("one");
  expect(isWhole("one", [], 3, true)).toBe(false);
  expect(isWhole("two", [1], 4, true)).toBe(false);
  expect(isWhole("order", [1, 0, 2], 3, true)).toBe(true);
  expect(isWhole("names", [0, 0, 1], 3, true)).toBe(false);
  expect(isWhole("names", [0, 0, 1], 3, false)).toBe(true);
  expect(isWhole("names", [0, -1, 1], 3, false)).toBe(false);
});

it("keeps its name and what waits, and drops only what the server has", async () => {
  expect(deviceName()).toBe(deviceName());
  keepOf("t", { waiting: [one("a"), one("b")] });
  vi.stubGlobal("fetch", async () => Promise.reject(new TypeError("no network")));
  expect(await sendWaiting("t")).toBe(false);
  expect(keptOf("t").waiting).toHaveLength(2);
  vi.stubGlobal("fetch", async () => {
    // Another answer is given while these are on their way.
    keepOf("t", { waiting: [one("a"), one("b"), one("c")] });
    return new Response(JSON.stringify({ stored: ["a", "b"] }), { status: 200, headers: { "Content-Type": "application/json" } });
  });
  expect(await sendWaiting("t")).toBe(true);
  expect(keptOf("t").waiting.map((each) => each.id)).toEqual(["c"]);
  vi.stubGlobal("fetch", async () => new Response(JSON.stringify({ problems: [{ at: "", says: "locked" }] }), { status: 409, headers: { "Content-Type": "application/json" } }));
  await expect(sendWaiting("t")).rejects.toThrow();
  expect(keptOf("t").waiting).toEqual([]);
  vi.unstubAllGlobals();
});
