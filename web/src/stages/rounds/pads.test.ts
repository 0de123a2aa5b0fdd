import { sure } from "@/parts/sure";
import { mount } from "@vue/test-utils";
import { describe, expect, it } from "vitest";

import CountPad from "./CountPad.vue";
import CurveFields from "./CurveFields.vue";
import PercentPad from "./PercentPad.vue";
import { straight } from "./curve";
import worked from "../../../../cases/curves.json";
import { standingOf } from "./ladder";
import { filledAt } from "./percentGuide";

const CURVES = worked as {
  steps: number[];
  responses: (number | null)[];
  through_zero: boolean;
  straight: { slope: number; leaves: [number, number] | null; told: boolean } | null;
}[];

describe("a ladder", () => {
  const steps = [5, 10, 15];
  it("goes up only after all turns at a step, and ends where it broke", () => {
    expect(standingOf({ survived: 0, broke: false }, steps, 3)).toEqual({
      load: 5,
      turn: 1,
      turns: 3,
      held: 0,
      top: false,
    });
    expect(standingOf({ survived: 5, broke: false }, steps, 3)).toMatchObject({ load: 10, turn: 3, held: 5 });
    expect(standingOf({ survived: 5, broke: true }, steps, 3)).toMatchObject({
      load: null,
      held: 5,
      top: false,
    });
    expect(standingOf({ survived: 9, broke: false }, steps, 3)).toMatchObject({
      load: null,
      held: 15,
      top: true,
    });
  });
});

describe("a curve", () => {
  it("has the straight part that the verdict sees, in every worked case", () => {
    for (const one of CURVES) {
      const found = straight(one.steps, one.responses, one.through_zero);
      expect(found && { leaves: found.leaves, told: found.told }, JSON.stringify(one)).toEqual(
        one.straight && { leaves: one.straight.leaves, told: one.straight.told },
      );
      if (found) expect(found.slope).toBeCloseTo(sure(one.straight).slope, 6);
    }
  });

  it("may have a step left out", async () => {
    const fields = mount(CurveFields, {
      props: {
        scale: {
          kind: "curve",
          unit: "mm",
          step_unit: "kg",
          steps: [1, 2, 3, 4],
          number: "slope",
          through_zero: false,
        },
        name: "Stretch",
        responses: null,
      },
    });
    for (const [i, value] of [
      [0, "2"],
      [2, "6"],
    ] as const)
      await sure(fields.findAll("input")[i]).setValue(value);
    await fields.find("form").trigger("submit");
    expect(fields.emitted("give")).toEqual([[[2, null, 6]]]);
  });

  it("tells so while it is typed", async () => {
    const fields = mount(CurveFields, {
      props: {
        scale: {
          kind: "curve",
          unit: "mm",
          step_unit: "kg",
          steps: [1, 2, 3, 4],
          number: "slope",
          through_zero: false,
        },
        name: "Stretch",
        responses: null,
      },
    });
    const inputs = fields.findAll("input");
    for (const [i, value] of ["2", "4", "6"].entries()) await sure(inputs[i]).setValue(value);
    expect(fields.text()).not.toContain("Leaves");
    await sure(inputs[3]).setValue("11");
    expect(fields.text()).toContain("Leaves the straight line between 3 and 4 kg.");
    await sure(inputs[3]).trigger("keydown", { key: "Enter" });
    await new Promise((resolve) => setTimeout(resolve));
    expect(fields.emitted("give")).toEqual([[[2, 4, 6, 11]]]);
  });
});

describe("a count", () => {
  it("is tapped up to what there is, taken back and typed over", async () => {
    const pad = mount(CountPad, {
      props: { scale: { kind: "count", of: 3, what: "seeds" }, name: "Sprouted", value: null },
    });
    const more = pad.find("[aria-label='One more']");
    for (let i = 0; i < 4; i += 1) await more.trigger("click");
    expect(pad.find("input").element.value).toBe("3");
    expect(more.attributes("disabled")).toBeDefined();
    await pad.find("[aria-label='One fewer']").trigger("click");
    await pad.find("form").trigger("submit");
    await pad.find("input").setValue("7");
    await pad.find("form").trigger("submit");
    expect(pad.emitted("give")).toEqual([[2]]);
    expect(pad.find("[role=alert]").exists()).toBe(true);
  });
});

describe("a share by eye", () => {
  it("is drawn as so many of a hundred squares, each once", () => {
    for (const share of [0, 1, 37, 100])
      expect(new Set(filledAt(share).map((one) => one.key)).size).toBe(share);
    expect(filledAt(240)).toHaveLength(100);
    const some = new Set(filledAt(10).map((one) => one.key));
    expect(filledAt(11).filter((one) => some.has(one.key))).toHaveLength(10);
  });

  it("moves by the steps that can be told apart", async () => {
    const pad = mount(PercentPad, {
      props: { scale: { kind: "percent", what: "", resolution: 5 }, name: "Cover", value: null },
    });
    await pad.find("[aria-label='Like this: 25 %']").trigger("click");
    await pad.find("[aria-label='5 more']").trigger("click");
    expect(pad.find("svg").attributes("aria-label")).toBe("What 30 % looks like");
    await pad.find("form").trigger("submit");
    expect(pad.emitted("give")).toEqual([[30]]);
  });
});
