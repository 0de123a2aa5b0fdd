import { expect, it } from "vitest";

import { treatment } from "./fresh";
import { addFresh, addedBlocks, adding, beginAdding, isFresh, leaveAdding, setAdded } from "./later";
import type { Plan } from "./usePlan";
import { sure } from "@/parts/sure";

const plan = (kind: string, names: string[] = []): Plan =>
  JSON.parse(
    JSON.stringify({
      treatments: [treatment({ key: "c", name: "Coir" }), treatment({ key: "b", name: "Brine" })],
      layout: {
        kind,
        blocks: names.map((name) => ({ key: name, name, note: "", starts: 0, added: null })),
      },
    }),
  ) as Plan;

it("puts what is added into a block of its own, beside all that was drawn", () => {
  const one = plan("random");
  beginAdding(one, "Added today");
  expect(one.layout.kind).toBe("blocks");
  expect(one.layout.blocks.map((each) => each.key !== "")).toEqual([false, true]);
  addFresh(one, 4);
  setAdded(one, "c", 4);
  const fresh = sure(one.treatments[2]);
  expect(fresh.samples).toBe(0);
  expect(adding(one)?.added.samples).toEqual({ [fresh.key]: 4, c: 4 });
  expect(isFresh(one, fresh.key)).toBe(true);
  expect(isFresh(one, "c")).toBe(false);
  setAdded(one, "c", 0);
  expect(adding(one)?.added.samples).toEqual({ [fresh.key]: 4 });
});

it("leaves blocks that there are, and is left without a trace", () => {
  const before = plan("blocks", ["sun", "shade"]);
  const one = plan("blocks", ["sun", "shade"]);
  beginAdding(one, "Added today");
  addFresh(one, 3);
  expect(one.layout.blocks.map((each) => each.key).slice(0, 2)).toEqual(["sun", "shade"]);
  leaveAdding(one, before);
  expect(one).toEqual(before);
  expect(addedBlocks(one)).toEqual([]);
});

it("adds beside what was added before", () => {
  const one = plan("random");
  beginAdding(one, "First");
  sure(adding(one)).added.at = "2027-03-14T09:00:00+00:00";
  expect(adding(one)).toBeUndefined();
  beginAdding(one, "Second");
  expect(one.layout.blocks.map((each) => each.name)).toEqual(["From the start", "First", "Second"]);
  expect(adding(one)?.name).toBe("Second");
});
