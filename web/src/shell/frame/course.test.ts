import { sure } from "@/parts/sure";
import { expect, it } from "vitest";

import { distances, FARTHEST, NEAREST, stopsOf } from "./course";
import type { Schemas } from "@/shell/api/client";

it("keeps distances honest until a wait is too long, then folds it", () => {
  const [first, second, third] = distances([60, 90, 6000]);
  expect(first).toEqual({ gap: NEAREST, folded: false });
  expect(second).toEqual({ gap: NEAREST * 1.5, folded: false });
  expect(third).toEqual({ gap: FARTHEST, folded: true });
  expect(sure(distances([0])[0]).gap).toBe(NEAREST);
});

it("opens only the stops that the person may go to", () => {
  const stop = {
    key: "d1",
    name: "Day 1",
    offset: 1440,
    standing: "due",
    opens: "2026-01-01T00:00:00Z",
    due: "2026-01-01T00:00:00Z",
    closes: "2026-01-02T00:00:00Z",
    lost: null,
    slip: null,
    done: 0,
    expected: 4,
  };
  const course = {
    id: "t",
    state: "running",
    zone: "UTC",
    started_at: "2025-12-31T00:00:00Z",
    checkpoints: [stop],
    may_see_plan: false,
    may_prepare: false,
    may_score: true,
    may_open_key: false,
    sees_readings: true,
  } as unknown as Schemas["CourseOut"];
  const found = stopsOf(course, new Date("2026-01-01T05:00:00Z"));
  expect(found.map((one) => [one.label, one.standing, one.to !== null])).toEqual([
    ["Plan", "done", false],
    ["Prepare", "done", false],
    ["Day 1", "due", true],
    ["Verdict", "ahead", false],
    ["Share", "ahead", true],
  ]);
  expect(
    sure(stopsOf({ ...course, may_score: false }, new Date()).find((one) => one.label === "Day 1")).to,
  ).toBeNull();
});
