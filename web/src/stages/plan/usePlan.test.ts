import { mount, flushPromises } from "@vue/test-utils";
import { afterEach, beforeEach, expect, it, vi } from "vitest";
import { defineComponent, h } from "vue";

import { usePlan, type Plan, type PlanAtWork } from "./usePlan";

const PLAN: Plan = {
  title: "Peas", question: "", prediction: "", sample_word: "tray", zone: "UTC", treatments: [],
  layout: { kind: "random", blocks: [] }, outcomes: [], checkpoints: [], alpha: 0.05, compare: "all",
};
const json = (status: number, body: unknown) => new Response(JSON.stringify(body), { status, headers: { "Content-Type": "application/json" } });
const out = (plan: Plan, version: number, problems: { at: string; says: string }[] = []) =>
  ({ plan, version, may_edit: true, saved_at: "2026-01-01T00:00:00Z", problems, leaks: [], sealed: null });
let puts: { plan: Plan; version: number }[] = [];
let keep: (put: { plan: Plan; version: number }) => Promise<Response> | Response;

/** The composable inside a component, loaded. */
async function atWork(): Promise<{ work: PlanAtWork; leave: () => void }> {
  let work!: PlanAtWork;
  const page = mount(defineComponent({ setup: () => ((work = usePlan("t")), () => h("p")) }));
  await work.load();
  return { work, leave: () => page.unmount() };
}

beforeEach(() => {
  vi.useFakeTimers();
  puts = [];
  keep = (put) => json(200, out(put.plan, put.version + 1));
  vi.stubGlobal("fetch", async (request: Request) => {
    if (request.method === "GET") return json(200, out(PLAN, 1, [{ at: "question", says: "Write down what you want to know." }]));
    if (request.url.endsWith("/outlook")) return json(200, { outlook: null });
    puts.push((await request.json()) as (typeof puts)[number]);
    return await keep(puts.at(-1)!);
  });
});
afterEach(() => {
  vi.useRealTimers();
  vi.unstubAllGlobals();
});

it("saves by itself, once for a burst of typing", async () => {
  const { work } = await atWork();
  for (const text of ["W", "Wh", "Which?"]) {
    work.plan.value!.question = text;
    await vi.advanceTimersByTimeAsync(100);
  }
  expect(puts).toHaveLength(0);
  await vi.advanceTimersByTimeAsync(700);
  expect(puts.map((put) => [put.plan.question, put.version])).toEqual([["Which?", 1]]);
  await vi.advanceTimersByTimeAsync(5_000);
  expect(puts).toHaveLength(1);
});

it("never has two saves under way, so it cannot be in conflict with itself", async () => {
  const { work } = await atWork();
  let release = () => {};
  keep = (put) => new Promise((done) => (release = () => done(json(200, out(put.plan, put.version + 1)))));
  work.plan.value!.question = "First?";
  const first = work.save();
  await flushPromises();
  work.plan.value!.question = "Second?";
  const second = work.save();
  await flushPromises();
  expect(puts).toHaveLength(1);
  keep = (put) => json(200, out(put.plan, put.version + 1));
  release();
  await Promise.all([first, second]);
  expect(puts.map((put) => [put.plan.question, put.version])).toEqual([["First?", 1], ["Second?", 2]]);
});

it("stops and says so when somebody else has saved", async () => {
  const { work } = await atWork();
  keep = () => json(409, { problems: [{ at: "version", says: "Wren has changed this plan since." }] });
  work.plan.value!.question = "Mine?";
  await work.save();
  expect(work.conflict.value).toBe(true);
  expect(work.words.value).toBe("Wren has changed this plan since.");
  work.plan.value!.question = "Mine again?";
  await work.save();
  expect(puts).toHaveLength(1);
});

it("says what is missing only once sealing was tried, and nothing about an older text", async () => {
  const { work } = await atWork();
  expect(work.says("question")).toBeUndefined();
  work.tried.value = true;
  expect(work.says("question")).toBe("Write down what you want to know.");
  work.plan.value!.question = "Which?";
  expect(work.says("question")).toBeUndefined();
});

it("keeps what was typed last when the page is left", async () => {
  const { work, leave } = await atWork();
  work.plan.value!.prediction = "Tea.";
  leave();
  await vi.advanceTimersByTimeAsync(50);
  expect(puts.map((put) => put.plan.prediction)).toEqual(["Tea."]);
});
