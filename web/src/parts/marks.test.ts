import { mount } from "@vue/test-utils";
import { expect, it } from "vitest";

import SampleTag from "./SampleTag.vue";
import TallyStrokes from "./TallyStrokes.vue";

it("draws a stroke for each, solid, hollow and to come", () => {
  const strokes = mount(TallyStrokes, { props: { solid: 7, hollow: 2, rest: 3, label: "7 of 12" } });
  const drawn = strokes.findAll("rect, polygon").map((one) => one.classes()[0]);
  expect(drawn).toEqual([
    ...Array<string>(7).fill("solid"),
    ...Array<string>(2).fill("hollow"),
    ...Array<string>(3).fill("rest"),
  ]);
  expect(strokes.findAll("polygon")).toHaveLength(2);
});

it("lets a stroke stand for several where there are too many to read", () => {
  const strokes = mount(TallyStrokes, { props: { solid: 900, rest: 300, label: "" } });
  const drawn = strokes.findAll("rect, polygon");
  expect(drawn.length).toBeLessThanOrEqual(60);
  expect(drawn.filter((one) => one.classes("solid")).length / drawn.length).toBeCloseTo(0.75, 1);
});

it("has neither hue nor letter before the key is open", () => {
  const sealed = mount(SampleTag, { props: { code: "742", looks: 3, letter: null } });
  expect(sealed.attributes("data-hue")).toBeUndefined();
  expect(sealed.find(".letter").exists()).toBe(false);
  const opened = mount(SampleTag, { props: { code: "742", looks: 3, letter: "C" } });
  expect(opened.attributes("data-hue")).toBe("2");
});
