import { sure } from "@/parts/sure";
import { flushPromises, mount } from "@vue/test-utils";
import { afterEach, beforeEach, expect, it, vi } from "vitest";

import CalendarLine from "./CalendarLine.vue";
import FactorGrid from "./FactorGrid.vue";
import LayoutPicture from "./LayoutPicture.vue";
import { checkpoint, treatment } from "./fresh";
import type { Plan, PlanAtWork } from "./usePlan";

const json = (status: number, body: unknown) =>
  new Response(JSON.stringify(body), { status, headers: { "Content-Type": "application/json" } });
const quiet = { says: () => undefined, leak: () => undefined } as unknown as PlanAtWork;
const layout = {
  kind: "random" as const,
  blocks: [],
  whole_plots: 2,
  row_word: "",
  column_word: "",
  plot_word: "bed",
  grid: null,
  stagger: 0,
};
const plan = (more: Partial<Plan> = {}) =>
  ({
    zone: "UTC",
    starts_on: null,
    factors: [],
    outcomes: [],
    checkpoints: [],
    layout,
    treatments: [treatment({ key: "a", name: "Jute" }), treatment({ key: "b", name: "Hemp" })],
    ...more,
  }) as unknown as Plan;
const slot = (place: number, treatment: string, more = {}) => ({
  block: null,
  place,
  treatment,
  plot: null,
  row: null,
  column: null,
  ...more,
});
let asked: { url: string; body: Record<string, unknown> }[] = [];
let reply: () => Response;
beforeEach(() => {
  vi.useFakeTimers();
  asked = [];
  vi.stubGlobal("fetch", async (request: Request) => {
    asked.push({ url: request.url, body: (await request.json()) as Record<string, unknown> });
    return reply();
  });
});
afterEach(() => {
  vi.useRealTimers();
  vi.unstubAllGlobals();
});
async function settled() {
  await vi.advanceTimersByTimeAsync(400);
  await flushPromises();
}

it("draws samples and guards in their places, and another draw when asked", async () => {
  const grid = { rows: 1, columns: 3, guard_columns: true, guard_rows: false, edge: "used" as const };
  reply = () =>
    json(200, {
      slots: [slot(1, "b", { row: 1, column: 1 }), slot(2, "a", { row: 1, column: 3 })],
      spots: [1, 3].map((column) => ({ row: 1, column, edge: true })),
      more: 0,
    });
  const picture = mount(LayoutPicture, { props: { plan: plan({ layout: { ...layout, grid } }) } });
  await settled();
  expect(picture.find("[role=img]").attributes("aria-label")).toBe("The places: B guard A");
  await picture.find("button").trigger("click");
  await settled();
  expect(asked.map((one) => one.body.draw)).toEqual([1, 2]);
});

it("sets pairs side by side, squares apart, and says why a layout cannot be drawn", async () => {
  reply = () =>
    json(200, {
      slots: [
        slot(1, "a", { plot: 1 }),
        slot(2, "b", { plot: 1 }),
        slot(3, "b", { plot: 2 }),
        slot(4, "a", { plot: 2 }),
      ],
      spots: [],
      more: 3,
    });
  const pairs = mount(LayoutPicture, { props: { plan: plan({ layout: { ...layout, kind: "pairs" } }) } });
  await settled();
  expect(pairs.find("[role=img]").attributes("aria-label")).toBe("The places: A B; B A");
  expect(pairs.text()).toContain("And 3 more.");
  reply = () =>
    json(422, { problems: [{ at: "layout.kind", says: "A Latin square needs three treatments or more." }] });
  await pairs.setProps({ plan: plan({ layout: { ...layout, kind: "latin" } }) });
  await settled();
  expect(pairs.find("[role=alert]").text()).toContain("three treatments or more");
  expect(pairs.find("[role=img]").exists()).toBe(false);
});

it("tells weekends and clashes of the looks, and what a start would bring", async () => {
  reply = () => json(200, { starts: null, looks: [] });
  const looks = [
    checkpoint({ key: "x", name: "Day 1" }),
    checkpoint({ key: "y", name: "Day 5", stage: "before" }),
  ];
  const line = mount(CalendarLine, { props: { plan: plan({ checkpoints: looks }), trial: "t" } });
  await settled();
  expect(line.text()).toContain("With a start, every look gets its date");
  reply = () =>
    json(200, {
      starts: "2026-06-01T09:00:00Z",
      looks: [
        {
          checkpoint: "x",
          due: "2026-06-02T09:00:00Z",
          weekend: false,
          clashes: ["Peas: Day 4"],
          same_day: [],
        },
        {
          checkpoint: "y",
          due: "2026-06-06T09:00:00Z",
          weekend: true,
          clashes: [],
          same_day: ["Twine: Week 2"],
        },
      ],
    });
  await line.setProps({ plan: plan({ checkpoints: looks, starts_on: "2026-06-01T09:00" }) });
  await settled();
  expect(line.text()).toContain("1 of 2 looks fall on a weekend, and 1 within an hour");
  expect(line.text()).toContain("Day 5, before");
  expect(line.text()).toContain("Same day: Twine: Week 2");
});

it("takes and leaves combinations of factors, and a factor out of all of them", async () => {
  const level = (key: string, name: string) => ({ key, name });
  const made = plan({
    treatments: [],
    factors: [{ key: "f", name: "Heat", hard: false, levels: [level("c", "cold"), level("w", "warm")] }],
  });
  const grid = mount(FactorGrid, { props: { modelValue: made, work: quiet } });
  const press = (name: string) =>
    sure(grid.findAll("button").find((one) => (one.attributes("aria-label") ?? one.text()) === name)).trigger(
      "click",
    );
  await press("Take all 2");
  expect(made.treatments.map((one) => [one.name, one.kind, one.levels])).toEqual([
    ["cold", "standard", { f: "c" }],
    ["warm", "treatment", { f: "w" }],
  ]);
  await grid.setProps({ modelValue: { ...made } });
  await press("cold");
  expect(made.treatments.map((one) => one.name)).toEqual(["warm"]);
  await press("Take out Heat");
  expect(sure(made.treatments[0]).levels).toEqual({});
  expect(made.factors).toEqual([]);
});
