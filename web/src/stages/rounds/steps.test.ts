import { sure } from "@/parts/sure";
import { mount } from "@vue/test-utils";
import { expect, it } from "vitest";

import GroupPads from "./GroupPads.vue";
import { askedOf, stepsOf } from "./steps";
import type { Outcome, RoundSample } from "./useRound";

const grade = {
  kind: "grade" as const,
  levels: [
    { value: 0, label: "0", anchor: "foul" },
    { value: 1, label: "1", anchor: "fresh" },
  ],
};
const outcome = (
  key: string,
  group: string,
  scale: Outcome["scale"] = grade,
  wait: number | null = null,
): Outcome => ({ key, name: key, group, scale, checkpoints: [], retest: "median", wait, wait_says: "" });
const sample = (code: string): RoundSample => ({
  id: code,
  code,
  block: "",
  place: 1,
  blind_repeat: false,
  opens: null,
  closed: null,
  name: "",
  skips: [],
});
const measured = { kind: "measurement" as const, unit: "mm", resolution: null, low: null, high: null };

it("puts one-tap outcomes of a group into one step, and all others into their own", () => {
  const outcomes = [
    outcome("smell", "table"),
    outcome("alone", ""),
    outcome("taste", "table"),
    outcome("height", "table", measured),
    outcome("later", "table", grade, 2),
  ];
  expect(
    stepsOf([sample("412"), sample("873")], outcomes).map((step) => [
      step.sample.code,
      step.outcomes.map((one) => one.key),
    ]),
  ).toEqual(
    ["412", "873"].flatMap((code) => [
      [code, ["smell", "taste"]],
      [code, ["alone"]],
      [code, ["height"]],
      [code, ["later"]],
    ]),
  );
});

it("gives each attribute by itself and shows the words of what was given", async () => {
  const both = [outcome("smell", "table"), outcome("taste", "table")];
  const pads = mount(GroupPads, {
    props: {
      outcomes: both,
      cellOf: (one: Outcome) => (one.key === "smell" ? ({ value: 1 } as never) : undefined),
    },
  });
  expect(pads.text()).toContain("smellfresh");
  await sure(pads.findAll("[aria-label=taste] button")[0]).trigger("click");
  expect(pads.emitted("give")).toEqual([[both[1], 0]]);
});

it("asks of a sample what is read on it, and of one with nothing left nothing", () => {
  const outcomes = [outcome("smell", "table"), outcome("taste", "table"), outcome("pull", "")];
  const some = { ...sample("412"), skips: ["taste"] };
  const none = { ...sample("873"), skips: ["smell", "taste", "pull"] };
  expect(askedOf(some, outcomes).map((one) => one.key)).toEqual(["smell", "pull"]);
  expect(stepsOf([some, none], outcomes).map((step) => step.outcomes.map((one) => one.key))).toEqual([
    ["smell"],
    ["pull"],
  ]);
});
