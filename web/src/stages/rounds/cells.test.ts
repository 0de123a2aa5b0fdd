import { sure } from "@/parts/sure";
import { mount } from "@vue/test-utils";
import { describe, expect, it } from "vitest";

import ScorePads from "./ScorePads.vue";
import SheetCell from "./SheetCell.vue";
import type { Given, Outcome } from "./useRound";

const grade: Outcome = {
  key: "o",
  name: "Freshness",
  group: "",
  scale: {
    kind: "grade",
    levels: [0, 1, 2].map((value) => ({ value, label: String(value), anchor: `anchor ${value}` })),
  },
  checkpoints: [],
  retest: "median" as const,
  wait: null,
  wait_says: "",
};
const drunk: Outcome = {
  key: "d",
  name: "Water drunk",
  group: "",
  scale: { kind: "measurement", unit: "mL", resolution: null, low: 0, high: 400 },
  checkpoints: [],
  retest: "median" as const,
  wait: null,
  wait_says: "",
};
const cell = (outcome: Outcome, more = {}) =>
  mount(SheetCell, {
    props: { label: outcome.name, outcome, cell: undefined, at: "0,0", begin: false, ...more },
    attachTo: document.body,
  });

describe("a cell of the sheet", () => {
  it("gives a one-key grade at once, and only once", async () => {
    const one = cell(grade);
    const input = one.find("input");
    await input.trigger("keydown", { key: "2" });
    await input.trigger("blur");
    expect(one.emitted("give")).toEqual([[2, undefined]]);
    await input.trigger("keydown", { key: "7" });
    expect(one.emitted("give")).toHaveLength(1);
  });

  it("gives a number on Enter, and says why it cannot", async () => {
    const one = cell(drunk);
    const input = one.find("input");
    await input.setValue("-4");
    await input.trigger("keydown", { key: "Enter" });
    expect(one.emitted("give")).toBeUndefined();
    expect(one.find("[role=alert]").text()).toContain("below the plausible range");
    await input.setValue("85,5");
    await input.trigger("keydown", { key: "Enter" });
    await input.trigger("blur");
    expect(one.emitted("give")).toEqual([[85.5, undefined]]);
    expect(one.find("[role=alert]").exists()).toBe(false);
  });

  it("moves on without giving again what is kept already", async () => {
    const kept = {
      id: "1",
      kind: "value" as const,
      words: "",
      responses: null,
      value: 85,
      reason: "",
      source: "typed" as const,
      device: "",
      again: [],
      stored: true,
    };
    const one = cell(drunk, { cell: kept });
    await one.find("input").trigger("keydown", { key: "Enter" });
    await one.find("input").trigger("keydown", { key: "ArrowDown" });
    expect(one.emitted("give")).toBeUndefined();
    expect(one.emitted("step")).toEqual([["next"], ["down"]]);
    await one.find("input").setValue("90");
    await one.find("input").trigger("keydown", { key: "Escape" });
    expect((one.find("input").element as HTMLInputElement).value).toBe("85");
  });

  it("shows whether the server has it", async () => {
    const kept = {
      id: "1",
      kind: "value" as const,
      words: "",
      responses: null,
      value: 1,
      reason: "",
      source: "typed" as const,
      device: "",
      again: [],
      stored: false,
    };
    const one = cell(grade, { cell: kept });
    expect(one.find("svg").attributes("aria-label")).toBe("on this device only");
    await one.setProps({ cell: { ...kept, stored: true } });
    expect(one.find("svg").attributes("aria-label")).toBe("stored");
    expect(cell(grade).find("svg").attributes("aria-label")).toBe("not scored");
  });

  it("asks for a reason where it cannot be scored, and undoes", async () => {
    const one = cell(grade);
    await one.find("input").trigger("keydown", { key: "x" });
    await one.find("input").trigger("keydown", { key: "z", ctrlKey: true });
    expect(one.emitted("cannot")).toHaveLength(1);
    expect(one.emitted("undo")).toHaveLength(1);
  });
});

describe("the pads", () => {
  it("stand best first with their anchors, and take a tap or a digit", async () => {
    const given: Given[] = [];
    const props = { outcome: grade, value: 1, onGive: (value: Given) => given.push(value) };
    const pads = mount(ScorePads, { props, attachTo: document.body });
    expect(pads.findAll("button").map((pad) => pad.text())).toEqual(["2anchor 2", "1anchor 1", "0anchor 0"]);
    expect(pads.findAll("button").map((pad) => pad.attributes("aria-pressed"))).toEqual([
      "false",
      "true",
      "false",
    ]);
    await sure(pads.findAll("button")[0]).trigger("click");
    document.body.dispatchEvent(new KeyboardEvent("keydown", { key: "0", bubbles: true }));
    expect(given).toEqual([2, 0]);
    pads.unmount();
    document.body.dispatchEvent(new KeyboardEvent("keydown", { key: "1", bubbles: true }));
    expect(given).toHaveLength(2);
  });

  it("refuse a number off the scale in a sentence", async () => {
    const field = mount(ScorePads, { props: { outcome: drunk, value: null } });
    await field.find("input").setValue("500");
    await field.find("form").trigger("submit");
    expect(field.find("[role=alert]").text()).toContain("above the plausible range");
    expect(field.emitted("give")).toBeUndefined();
  });
});
