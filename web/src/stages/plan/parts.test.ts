import { sure } from "@/parts/sure";
import { flushPromises, mount } from "@vue/test-utils";
import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";
import { defineComponent, h, ref } from "vue";

import FairnessItem from "./FairnessItem.vue";
import FairnessPart from "./FairnessPart.vue";
import GradeEditor from "./GradeEditor.vue";
import LookGrid from "./LookGrid.vue";
import RuleField from "./RuleField.vue";
import { SCALES, SCALE_NAMES, checkpoint, grades, outcome } from "./fresh";
import { PARTS, partOf } from "./planParts";
import { useRehearsal } from "./useRehearsal";
import type { Plan, PlanAtWork } from "./usePlan";
import NumbersField from "@/parts/NumbersField.vue";
import type { Schemas } from "@/shell/api/client";

const json = (status: number, body: unknown) =>
  new Response(JSON.stringify(body), { status, headers: { "Content-Type": "application/json" } });
const quiet = { says: () => undefined, leak: () => undefined } as unknown as PlanAtWork;
afterEach(() => vi.unstubAllGlobals());

describe("new entries", () => {
  it("have a sound scale of each kind, and halves where they are wanted", () => {
    for (const kind of Object.keys(SCALE_NAMES) as (keyof typeof SCALES)[])
      expect(SCALES[kind]().kind).toBe(kind);
    expect(grades(["gone", "poor", "good"], true).map((one) => [one.value, one.label])).toEqual([
      [0, "0"],
      [0.5, "½"],
      [1, "1"],
      [1.5, "1½"],
      [2, "2"],
    ]);
  });

  it("belong to a part each, whatever their path", () => {
    expect(partOf("outcomes.3.scale.levels.1.anchor").key).toBe("outcomes");
    expect(partOf("fairness.control").name).toBe("Fairness");
    expect(partOf("starts_on").key).toBe("looks");
    const all = PARTS.flatMap((one) => one.holds);
    expect(new Set(all).size).toBe(all.length);
  });
});

describe("numbers in a row", () => {
  it("are read as people type them", async () => {
    const field = mount(NumbersField, { props: { label: "Steps", modelValue: [5, 10] } });
    const input = field.find("input");
    expect(input.element.value).toBe("5, 10");
    for (const [text, values] of [
      ["5 10 12,5", [5, 10, 12.5]],
      ["−1; 2", [-1, 2]],
      ["1, 2, 3,", [1, 2, 3]],
      ["", []],
    ] as const) {
      await input.setValue(text);
      expect(sure(field.emitted("update:modelValue")).at(-1)).toEqual([values]);
    }
    const before = sure(field.emitted("update:modelValue")).length;
    await input.setValue("5, ten");
    expect(field.text()).toContain("Numbers only");
    expect(field.emitted("update:modelValue")).toHaveLength(before);
  });
});

describe("the levels of a grade", () => {
  it("get halves between them and lose them again with all else kept", async () => {
    const scale = { kind: "grade" as const, levels: grades(["gone", "poor", "good"]) };
    const editor = mount(GradeEditor, { props: { modelValue: scale, at: "outcomes.0.scale", work: quiet } });
    await editor.find("input[type=checkbox]").setValue(true);
    expect(scale.levels.map((one) => one.label)).toEqual(["0", "½", "1", "1½", "2"]);
    await editor.find("input[type=checkbox]").setValue(false);
    expect(scale.levels.map((one) => one.anchor)).toEqual(["gone", "poor", "good"]);
    await sure(editor.findAll("button").at(-1)).trigger("click");
    expect(scale.levels.at(-1)).toEqual({ value: 3, label: "3", anchor: "" });
  });
});

describe("which outcomes at which look", () => {
  it("is kept as nothing where it is all, and never becomes none", async () => {
    const plan = {
      outcomes: [outcome({ name: "Load" })],
      checkpoints: [checkpoint({ key: "a", name: "Day 1" }), checkpoint({ key: "b", name: "Day 2" })],
    } as Plan;
    const grid = mount(LookGrid, { props: { modelValue: plan } });
    const [first, second] = grid.findAll("input");
    await sure(first).trigger("change");
    expect(sure(plan.outcomes[0]).checkpoints).toEqual(["b"]);
    await sure(second).trigger("change");
    expect(sure(plan.outcomes[0]).checkpoints).toEqual(["b"]);
    await sure(first).trigger("change");
    expect(sure(plan.outcomes[0]).checkpoints).toEqual([]);
  });
});

describe("an item of the fairness list", () => {
  const item = (more: Partial<Schemas["FairFinding"]>): Schemas["FairFinding"] => ({
    key: "blind",
    title: "The scorer is blind",
    standing: "open",
    by_plan: false,
    says: "Will they not know?",
    why: "Hope grades upwards.",
    limit: "That hope did not help.",
    reason: "",
    promised: false,
    no: "whoever scores may know",
    unknown: "nobody knows whether it is so",
    weight: 90,
    ...more,
  });
  const shown = (more: Partial<Schemas["FairFinding"]>, taken = false) =>
    mount(FairnessItem, { props: { item: item(more), editable: true, taken }, attachTo: document.body });
  const press = (one: ReturnType<typeof shown>, name: string) =>
    sure(
      one
        .findAll("button")
        .find((button) => (button.attributes("aria-label") ?? button.text()).startsWith(name)),
    ).trigger("click");

  it("is kept by a person's word, or given up with a reason and not without", async () => {
    const one = shown({});
    await press(one, "Keep");
    expect(one.emitted("keep")).toHaveLength(1);
    await press(one, "Give up");
    expect(one.text()).toContain("Without it the verdict may not claim: that hope did not help.");
    await one.find("input").trigger("keydown", { key: "Enter" });
    expect(one.emitted("giveUp")).toBeUndefined();
    expect(one.find("[role=alert]").text()).toContain("Say why");
    await one.find("input").setValue("one pair of hands");
    await one.find("input").trigger("keydown", { key: "Enter" });
    expect(one.emitted("giveUp")).toEqual([["one pair of hands"]]);
  });

  it("cannot be ticked where the plan decides, and says why it matters", async () => {
    const one = shown({ by_plan: true });
    expect(one.text()).not.toContain("Yes");
    await press(one, "Why");
    expect(one.text()).toContain("Hope grades upwards.");
    expect(shown({ standing: "kept" }, true).text()).toContain("Vouched for in this plan.");
    const promised = shown({ standing: "kept", by_plan: true, promised: true });
    expect(promised.text()).toContain("Give it up");
    expect(promised.text()).not.toContain("Yes");
    expect(shown({ standing: "given_up", reason: "no room" }, true).text()).toContain("Given up: no room");
  });
});

describe("the fairness list as a whole", () => {
  const judged = (...standings: Schemas["FairFinding"]["standing"][]) => {
    const fairness = standings.map((standing, i) => ({
      key: `item-${i}`,
      standing,
      by_plan: false,
      says: "",
      why: "",
      limit: "",
      reason: "no room",
      promised: false,
    }));
    const work = { judged: ref({ fairness }), editable: ref(true) } as unknown as PlanAtWork;
    return mount(FairnessPart, { props: { modelValue: { fairness: [] } as unknown as Plan, work } }).text();
  };

  it("is called as fair as can be only where nothing was given up", () => {
    expect(judged("kept", "kept")).toContain("as fair as you can make it");
    const given = judged("kept", "given_up");
    expect(given).toContain("1 of 2 kept, 1 given up.");
    expect(given).not.toContain("as fair as you can make it");
  });

  it("says nothing while nothing is judged yet", () => {
    expect(judged()).toBe("");
  });
});

describe("a rule of looks", () => {
  it("hands on what it stands for, and stays when it is not understood", async () => {
    let reply = json(422, { problems: [{ at: "rule", says: "“soon” is not understood." }] });
    vi.stubGlobal("fetch", async () => reply);
    const field = mount(RuleField, { props: { cycleWord: "" } });
    await field.find("input").setValue("soon");
    await field.find("input").trigger("keydown", { key: "Enter" });
    await flushPromises();
    expect(field.text()).toContain("“soon” is not understood.");
    expect(field.find("input").element.value).toBe("soon");
    const looks = [{ name: "Day 1", offset: 1440, clock: null, cycle: null }];
    reply = json(200, { looks });
    await field.find("input").trigger("keydown", { key: "Enter" });
    await flushPromises();
    expect(field.emitted("take")).toEqual([[looks]]);
    expect(field.find("input").element.value).toBe("");
  });
});

describe("a rehearsal", () => {
  const row = (done: number, result: unknown = null) => ({ id: "r1", runs: 100, done, result, failed: "" });
  let calls: string[] = [];
  let done = 0;
  beforeEach(() => {
    vi.useFakeTimers();
    [calls, done] = [[], 0];
    vi.stubGlobal("fetch", async (request: Request) => {
      calls.push(request.method);
      if (request.method === "DELETE") return new Response(null, { status: 204 });
      if (request.method === "POST") return json(202, row(0));
      done += 50;
      return json(
        200,
        row(
          done,
          done >= 100
            ? {
                runs: 100,
                right: 60,
                missed: 40,
                false_alarms: 0,
                rightly_none: 0,
                a_miss: 2,
                a_false_alarm: null,
              }
            : null,
        ),
      );
    });
  });
  afterEach(() => vi.useRealTimers());

  function begun() {
    let work!: ReturnType<typeof useRehearsal>;
    const page = mount(defineComponent({ setup: () => ((work = useRehearsal()), () => h("p")) }));
    return { work, page };
  }

  it("is asked after until it is done", async () => {
    const { work } = begun();
    await work.begin({} as Schemas["DryRunsIn"]);
    expect(work.running.value).toBe(true);
    await vi.advanceTimersByTimeAsync(5_000);
    expect(sure(sure(work.rehearsal.value).result).a_miss).toBe(2);
    expect(calls).toEqual(["POST", "GET", "GET"]);
  });

  it("is stopped when the page is left", async () => {
    const { work, page } = begun();
    await work.begin({} as Schemas["DryRunsIn"]);
    page.unmount();
    await vi.advanceTimersByTimeAsync(5_000);
    expect(calls).toEqual(["POST", "DELETE"]);
  });
});
