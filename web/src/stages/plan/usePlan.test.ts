import { sure } from "@/parts/sure";
import { mount, flushPromises } from "@vue/test-utils";
import { afterEach, beforeEach, expect, it, vi } from "vitest";
import { defineComponent, h } from "vue";

import { usePlan, type Plan, type PlanAtWork } from "./usePlan";

const PLAN: Plan = {
  title: "Peas",
  tasting: false,
  begun: null,
  question: "",
  why: "",
  decision: "",
  hazards: "",
  purpose: null,
  school: null,
  sample_word: "tray",
  sample_words: "",
  pieces: 1,
  piece_word: "",
  zone: "UTC",
  starts_on: null,
  factors: [],
  treatments: [],
  groups: [],
  kinds: [],
  held_equal: [],
  outcomes: [],
  checkpoints: [],
  layout: {
    kind: "random",
    blocks: [],
    whole_plots: 2,
    row_word: "row",
    column_word: "column",
    plot_word: "plot",
    grid: null,
    stagger: 0,
  },
  cycle_word: "",
  cycle_minutes: null,
  cycle_settings: [],
  system: "metric",
  sample_size: "",
  carrier: "",
  top_up: false,
  mixing: "each",
  overage: 0.1,
  cleaning: "",
  products: [],
  start_values: { what: "", unit: "", values: [], balance: false },
  ending: { kind: "fixed", outcome: null },
  fairness: [],
  alpha: 0.05,
  compare: "all",
  interim: [],
  repeats: 0,
  show_previous: false,
  money: "£",
  sample_cost: null,
  shared_costs: [],
  earlier: null,
  outside: [],
  agreement: null,
};
const json = (status: number, body: unknown) =>
  new Response(JSON.stringify(body), { status, headers: { "Content-Type": "application/json" } });
const out = (plan: Plan, version: number, problems: { at: string; says: string }[] = []) => ({
  plan,
  version,
  may_edit: true,
  saved_at: "2026-01-01T00:00:00Z",
  saved_by: "Wren",
  problems,
  leaks: [],
  sealed: null as unknown,
  amendments: [],
  predictions: 0,
  may_amend: false,
});
const first = () => out(PLAN, 1, [{ at: "question", says: "Write down what you want to know." }]);
let newest = first();
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
  localStorage.clear();
  vi.useFakeTimers();
  puts = [];
  newest = first();
  keep = (put) => json(200, out(put.plan, put.version + 1));
  vi.stubGlobal("fetch", async (request: Request) => {
    if (request.url.endsWith("/version"))
      return json(200, { version: newest.version, saved_by: "Wren", sealed: false });
    if (request.method === "GET") return json(200, newest);
    if (request.url.endsWith("/outlook")) return json(200, { outlook: null });
    puts.push((await request.json()) as (typeof puts)[number]);
    return await keep(sure(puts.at(-1)));
  });
});
afterEach(() => {
  vi.useRealTimers();
  vi.unstubAllGlobals();
});

it("saves by itself, once for a burst of typing", async () => {
  const { work } = await atWork();
  for (const text of ["W", "Wh", "Which?"]) {
    sure(work.plan.value).question = text;
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
  sure(work.plan.value).question = "First?";
  const first = work.save();
  await flushPromises();
  sure(work.plan.value).question = "Second?";
  const second = work.save();
  await flushPromises();
  expect(puts).toHaveLength(1);
  keep = (put) => json(200, out(put.plan, put.version + 1));
  release();
  await Promise.all([first, second]);
  expect(puts.map((put) => [put.plan.question, put.version])).toEqual([
    ["First?", 1],
    ["Second?", 2],
  ]);
});

it("takes in what somebody else has saved, and keeps what is typed here", async () => {
  const { work } = await atWork();
  newest = out({ ...PLAN, decision: "What we buy." }, 7);
  keep = (put) =>
    put.version === 7
      ? json(200, out(put.plan, 8))
      : json(409, { problems: [{ at: "version", says: "Wren has changed this plan since." }] });
  sure(work.plan.value).question = "Mine?";
  await work.save();
  expect(puts.map((put) => [put.plan.question, put.plan.decision, put.version])).toEqual([
    ["Mine?", "", 1],
    ["Mine?", "What we buy.", 7],
  ]);
  expect(work.noticed.value).toBe("Wren changed Question just now.");
  expect(work.clashes.value).toEqual([]);
});

it("lets theirs stand where both changed the same, and puts mine back when asked", async () => {
  const { work } = await atWork();
  newest = out({ ...PLAN, question: "Theirs?" }, 7);
  keep = (put) =>
    put.version === 1
      ? json(409, { problems: [{ at: "version", says: "Changed." }] })
      : json(200, out(put.plan, put.version + 1));
  sure(work.plan.value).question = "Mine?";
  await work.save();
  expect(sure(work.plan.value).question).toBe("Theirs?");
  expect(work.clashes.value.map((one) => [one.at, one.mine, one.theirs])).toEqual([
    ["question", "Mine?", "Theirs?"],
  ]);
  work.putBack(sure(work.clashes.value[0]));
  await work.save();
  expect(sure(puts.at(-1)).plan.question).toBe("Mine?");
  expect(work.clashes.value).toEqual([]);
});

it("looks around for others every few seconds, and sees what they changed", async () => {
  const { work } = await atWork();
  newest = out({ ...PLAN, title: "Peas, soaked" }, 3);
  await vi.advanceTimersByTimeAsync(4_500);
  expect(sure(work.plan.value).title).toBe("Peas, soaked");
  expect(work.noticed.value).toBe("Wren changed Question just now.");
  expect(puts).toHaveLength(0);
});

it("saves nothing while a sealed plan is being amended", async () => {
  newest = {
    ...out(PLAN, 1),
    may_edit: false,
    may_amend: true,
    sealed: { seal: "00", at: "2026-01-01T00:00:00Z", by: "Wren" },
  };
  const { work } = await atWork();
  work.amending.value = true;
  sure(work.plan.value).hazards = "boots";
  await vi.advanceTimersByTimeAsync(2_000);
  expect(puts).toHaveLength(0);
  expect(work.editable.value).toBe(true);
});

it("says what is missing only once sealing was tried, and nothing about an older text", async () => {
  const { work } = await atWork();
  expect(work.says("question")).toBeUndefined();
  work.tried.value = true;
  expect(work.says("question")).toBe("Write down what you want to know.");
  sure(work.plan.value).question = "Which?";
  expect(work.says("question")).toBeUndefined();
});

it("keeps what was typed last when the page is left", async () => {
  const { work, leave } = await atWork();
  sure(work.plan.value).why = "Tea.";
  leave();
  await vi.advanceTimersByTimeAsync(50);
  expect(puts.map((put) => put.plan.why)).toEqual(["Tea."]);
});

it("keeps what cannot be sent on the device, tries again by itself, and has it back after a reload", async () => {
  const { work, leave } = await atWork();
  keep = () => Promise.reject(new TypeError("no network"));
  sure(work.plan.value).question = "Which lasts?";
  await vi.advanceTimersByTimeAsync(700);
  expect(work.words.value).toContain("kept on this device and sent by itself");
  expect(puts).toHaveLength(1);
  await vi.advanceTimersByTimeAsync(2_100);
  expect(puts).toHaveLength(2);
  leave();
  await flushPromises();
  // Somebody else has changed another field meanwhile.
  newest = out({ ...PLAN, why: "Two are sold." }, 2);
  keep = (put) => json(200, out(put.plan, put.version + 1));
  const again = await atWork();
  expect(again.work.plan.value).toMatchObject({ question: "Which lasts?", why: "Two are sold." });
  expect(again.work.noticed.value).toContain("is back");
  await vi.advanceTimersByTimeAsync(700);
  expect(sure(puts.at(-1)).plan).toMatchObject({ question: "Which lasts?", why: "Two are sold." });
  expect(localStorage.getItem("field-tally/draft/t")).toBeNull();
  again.leave();
});

it("keeps it through a reload before it was sent at all, and shows it to nobody else", async () => {
  const { work } = await atWork();
  sure(work.plan.value).question = "Typed just now";
  await flushPromises();
  expect(puts).toHaveLength(0);
  expect(sure((await atWork()).work.plan.value).question).toBe("Typed just now");
  const kept = JSON.parse(sure(localStorage.getItem("field-tally/draft/t"))) as { person: number };
  localStorage.setItem("field-tally/draft/t", JSON.stringify({ ...kept, person: 7 }));
  expect(sure((await atWork()).work.plan.value).question).toBe("");
});

it("asks for the sign-in where it has run out, and keeps all of it then", async () => {
  const { work } = await atWork();
  keep = () => json(401, { problems: [{ at: "", says: "Please sign in first." }] });
  sure(work.plan.value).question = "Which lasts?";
  await vi.advanceTimersByTimeAsync(700);
  expect(work.signedOut.value).toBe(true);
  await vi.advanceTimersByTimeAsync(120_000);
  expect(puts).toHaveLength(1);
  keep = (put) => json(200, out(put.plan, put.version + 1));
  await work.save();
  expect([work.signedOut.value, work.words.value]).toEqual([false, ""]);
  expect(sure(puts.at(-1)).plan.question).toBe("Which lasts?");
});

it("takes steps back and forward, a burst of typing being one", async () => {
  const { work } = await atWork();
  expect(work.mayUndo.value).toBe(false);
  for (const text of ["W", "Which?"]) {
    sure(work.plan.value).question = text;
    await vi.advanceTimersByTimeAsync(100);
  }
  await vi.advanceTimersByTimeAsync(1_000);
  sure(work.plan.value).decision = "What we buy.";
  await flushPromises();
  work.undo();
  expect([work.plan.value?.question, work.plan.value?.decision]).toEqual(["Which?", ""]);
  work.undo();
  expect(work.plan.value?.question).toBe("");
  expect(work.mayUndo.value).toBe(false);
  work.redo();
  work.redo();
  expect(work.plan.value?.decision).toBe("What we buy.");
  expect(work.mayRedo.value).toBe(false);
  await vi.advanceTimersByTimeAsync(2_000);
  expect(puts.at(-1)?.plan.decision).toBe("What we buy.");
  work.undo();
  sure(work.plan.value).decision = "Another.";
  await vi.advanceTimersByTimeAsync(1_000);
  expect(work.mayRedo.value).toBe(false);
});

it("takes back nothing that somebody else has saved meanwhile", async () => {
  const { work } = await atWork();
  sure(work.plan.value).question = "Mine?";
  await vi.advanceTimersByTimeAsync(1_000);
  newest = out({ ...PLAN, question: "Mine?", decision: "Theirs." }, 9);
  await vi.advanceTimersByTimeAsync(5_000);
  expect(work.plan.value?.decision).toBe("Theirs.");
  expect(work.mayUndo.value).toBe(false);
});

it("makes what is added a step by itself", async () => {
  const { work } = await atWork();
  const plan = sure(work.plan.value);
  plan.layout.blocks.push({ key: "b", name: "Bed", note: "", starts: 0, added: null });
  await flushPromises();
  plan.held_equal.push({ key: "h", what: "light", setting: "" });
  await flushPromises();
  work.undo();
  expect([work.plan.value?.layout.blocks.length, work.plan.value?.held_equal.length]).toEqual([1, 0]);
});
