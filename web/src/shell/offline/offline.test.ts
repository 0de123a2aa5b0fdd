import { sure } from "@/parts/sure";
import "fake-indexeddb/auto";
import { beforeEach, expect, it, vi } from "vitest";

import { learn, rightNow } from "./clock";
import { device, type Reading } from "./device";
import { isKeptPath } from "./kept";
import { forgetRounds, keepRound, keptRound, noteStored } from "./rounds";
import type { Schemas } from "../api/client";

beforeEach(() => forgetRounds());

it("keeps answers for reading alone, and none that name what was given", () => {
  const id = "0b6f3f5e-3a51-4c5e-9a52-6d1c8a5b2f10";
  for (const path of [
    "/api/me",
    "/api/shelf",
    "/api/today",
    `/api/trials/${id}/course`,
    `/api/trials/${id}/board`,
  ])
    expect(isKeptPath(path), path).toBe(true);
  for (const path of [
    `/api/trials/${id}/mix`,
    `/api/trials/${id}/plan`,
    `/api/trials/${id}/verdict`,
    `/api/trials/${id}/log`,
    "/api/feed",
    "/api/mailbox",
  ])
    expect(isKeptPath(path), path).toBe(false);
});

it("puts a wrong clock right by the server’s date, and leaves one that is right", () => {
  vi.useFakeTimers({ now: Date.parse("2026-05-01T10:00:00Z"), toFake: ["Date"] });
  const now = Date.now();
  learn("Fri, 01 May 2026 12:30:00 GMT", now, now);
  expect(rightNow().toISOString()).toBe("2026-05-01T12:30:00.500Z");
  learn("Fri, 01 May 2026 10:00:01 GMT", now, now);
  expect(rightNow().toISOString()).toBe("2026-05-01T10:00:00.000Z");
  learn(null, now, now);
  learn("yesterday", now, now);
  expect(rightNow().getTime()).toBe(now);
  vi.useRealTimers();
});

const reading = (id: string, more: Partial<Reading> = {}): Reading => ({
  id,
  round: "r",
  sample: "s1",
  outcome: "o",
  kind: "value",
  value: 1,
  words: "",
  responses: null,
  reason: "",
  source: "typed",
  device: "",
  take: 1,
  taken_at: "2026-05-01T10:00:00Z",
  ...more,
});
const round = (readings: Schemas["RoundReading"][] = []): Schemas["RoundOut"] => ({
  id: "r",
  checkpoint: "c",
  name: "Day 1",
  samples: [],
  outcomes: [],
  previous: [],
  practise: [],
  notebook: false,
  looked_by: "",
  due: null,
  earliest: null,
  gauged: [],
  readings,
});

it("opens a round as it was, with what has been stored since, corrections and what was taken back", async () => {
  expect(await keptRound("t", "c", 7)).toBeUndefined();
  await keepRound("t", "c", 7, round());
  await noteStored([reading("1"), reading("2", { sample: "s2" }), reading("3", { sample: "s3" })]);
  await noteStored([
    reading("4", { value: 5 }),
    reading("5", { sample: "s2", kind: "withdrawn", value: null }),
    reading("6", { sample: "s3", take: 2, value: 9 }),
  ]);
  const kept = await keptRound("t", "c", 7);
  expect(sure(kept).readings.map((one) => [one.id, one.sample, one.value, one.take])).toEqual([
    ["4", "s1", 5, 1],
    ["3", "s3", 1, 1],
    ["6", "s3", 9, 2],
  ]);
  expect(await keptRound("t", "c", 8)).toBeUndefined();
  // Opened anew from the server, what it tells holds all of that.
  await keepRound("t", "c", 7, round());
  expect(sure(await keptRound("t", "c", 7)).readings).toEqual([]);
  expect(await device.stored.count()).toBe(0);
});
