import { beforeEach, expect, it, vi } from "vitest";

import { deviceName, discard, isWhole, keepOf, keptOf, sendAgain, sendWaiting, tapped, wayOf, type Judgement } from "./booth";

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
  keepOf("t", { waiting: [one("a"), one("b")], refused: [] });
  vi.stubGlobal("fetch", async () => Promise.reject(new TypeError("no network")));
  expect(await sendWaiting("t")).toBe(false);
  expect(keptOf("t").waiting).toHaveLength(2);
  let sent = 0;
  vi.stubGlobal("fetch", async () => {
    // Another answer is given while these are on their way.
    if (keptOf("t").waiting.length === 2) keepOf("t", { waiting: [...keptOf("t").waiting, one("c")], refused: [] });
    sent += 1;
    return new Response(JSON.stringify({ stored: [] }), { status: 200, headers: { "Content-Type": "application/json" } });
  });
  expect(await sendWaiting("t")).toBe(true);
  expect([sent, keptOf("t").waiting]).toEqual([3, []]);
  vi.unstubAllGlobals();
});

it("keeps what the server turns down with its sentence, sends what comes after it, and lets it be sent again or discarded", async () => {
  keepOf("t", { waiting: [one("a"), one("b"), one("c")], refused: [] });
  let open = false;
  vi.stubGlobal("fetch", async (request: Request) => {
    const told = (await request.clone().json()) as { judgements: Judgement[] };
    const spilt = told.judgements.some((each) => each.id === "b") && !open;
    return new Response(JSON.stringify(spilt ? { problems: [{ at: "", says: "This set was spilt." }] } : { stored: [] }), { status: spilt ? 422 : 200, headers: { "Content-Type": "application/json" } });
  });
  expect(await sendWaiting("t")).toBe(true);
  expect(keptOf("t").waiting).toEqual([]);
  expect(keptOf("t").refused).toEqual([{ judgement: one("b"), says: "This set was spilt." }]);
  sendAgain("t", "b");
  expect(keptOf("t").waiting).toEqual([one("b")]);
  open = true;
  expect(await sendWaiting("t")).toBe(true);
  expect(keptOf("t")).toMatchObject({ waiting: [], refused: [] });
  keepOf("t", { waiting: [], refused: [{ judgement: one("d"), says: "No." }] });
  discard("t", "d");
  expect(keptOf("t").refused).toEqual([]);
  // What an earlier version kept knows of no refusals.
  localStorage.setItem("field-tally/booth/old", JSON.stringify({ waiting: [one("a")] }));
  expect(keptOf("old").refused).toEqual([]);
  vi.unstubAllGlobals();
});
