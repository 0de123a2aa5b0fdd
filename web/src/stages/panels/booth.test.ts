import { sure } from "@/parts/sure";
import "fake-indexeddb/auto";
import { afterEach, beforeEach, expect, it, vi } from "vitest";

import {
  answersHere,
  answeredIn,
  isWhole,
  keepBooth,
  keptBooth,
  lockIn,
  tapped,
  wayOf,
  type Booth,
  type Judgement,
} from "./booth";
import { deviceName } from "@/shell/offline/senders";
import { device, discard, sendAgain } from "@/shell/outbox";

const one = (id: string): Judgement => ({
  id,
  serving: `of ${id}`,
  answer: [0],
  confidence: null,
  heard: null,
  preference: null,
  grades: [],
  chips: [],
  words: "",
  given_at: "2026-01-01T00:00:00Z",
});
beforeEach(async () => {
  localStorage.clear();
  await device.waiting.clear();
});
afterEach(() => vi.unstubAllGlobals());
const soon = <T>(check: () => T) => vi.waitFor(check, { timeout: 10_000 });
const here = async (token: string) => (await answersHere(token)).map((row) => [row.id, row.refused]);

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

it("keeps its name, and what waits until the server has it", async () => {
  expect(deviceName()).toBe(deviceName());
  vi.stubGlobal("fetch", async () => Promise.reject(new TypeError("no network")));
  await lockIn("t", one("a"), "318, 402");
  await lockIn("t", one("b"), "318, 402");
  expect(await here("t")).toEqual([
    ["a", ""],
    ["b", ""],
  ]);
  expect(answeredIn(await answersHere("t"))).toEqual(["of a", "of b"]);
  expect(await here("other")).toEqual([]);
  const sent: string[] = [];
  vi.stubGlobal("fetch", async (request: Request) => {
    sent.push(...((await request.json()) as { judgements: Judgement[] }).judgements.map((each) => each.id));
    return new Response(JSON.stringify({ stored: [] }), {
      status: 200,
      headers: { "Content-Type": "application/json" },
    });
  });
  await soon(async () => expect(await here("t")).toEqual([]));
  expect(sent).toEqual(["a", "b"]);
});

it("keeps what the server turns down with its sentence, sends what comes after it, and lets it be sent again or discarded", async () => {
  let open = false;
  vi.stubGlobal("fetch", async (request: Request) => {
    const told = (await request.clone().json()) as { judgements: Judgement[] };
    const spilt = told.judgements.some((each) => each.id === "b") && !open;
    return new Response(
      JSON.stringify(
        spilt ? { problems: [{ at: "", says: "This set was spilt.", asks: false }] } : { stored: [] },
      ),
      { status: spilt ? 422 : 200, headers: { "Content-Type": "application/json" } },
    );
  });
  for (const id of ["a", "b", "c"]) await lockIn("u", one(id), "318, 402");
  await soon(async () => expect(await here("u")).toEqual([["b", "This set was spilt."]]));
  open = true;
  await sendAgain(sure((await answersHere("u"))[0]));
  expect(await here("u")).toEqual([]);
  open = false;
  await lockIn("u", one("b"), "318, 402");
  await soon(async () => expect(await here("u")).toEqual([["b", "This set was spilt."]]));
  await discard(sure((await answersHere("u"))[0]));
  expect(await here("u")).toEqual([]);
});

it("takes over what an earlier version kept, once", async () => {
  vi.stubGlobal("fetch", async () => Promise.reject(new TypeError("no network")));
  localStorage.setItem(
    "field-tally/booth/old",
    JSON.stringify({ waiting: [one("a")], refused: [{ judgement: one("r"), says: "No." }] }),
  );
  expect(await here("old")).toEqual([
    ["a", ""],
    ["r", ""],
  ]);
  expect(await here("old")).toHaveLength(2);
  keepBooth("old", { number: 3 } as Booth);
  expect(keptBooth("old")).toEqual({ number: 3 });
  expect(keptBooth("never")).toBeUndefined();
});
