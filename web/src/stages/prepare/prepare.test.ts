import { sure } from "@/parts/sure";
import { flushPromises, mount } from "@vue/test-utils";
import { afterEach, beforeEach, expect, it, vi } from "vitest";

import GiveCard from "./GiveCard.vue";
import LabelSheetPicture from "./LabelSheetPicture.vue";
import { useGiving } from "./useGiving";
import BenchDrawer from "@/parts/BenchDrawer.vue";
import ReadDevice from "@/parts/ReadDevice.vue";
import type { Schemas } from "@/shell/api/client";
import { queryClient } from "@/shell/query";
import { sampleIn } from "@/stages/rounds/tagAddress";

const json = (status: number, body: unknown) =>
  new Response(body === null ? null : JSON.stringify(body), {
    status,
    headers: { "Content-Type": "application/json" },
  });
let sent: { path: string; body: Record<string, unknown> }[] = [];
let reply: (path: string) => Response | Error;
beforeEach(() => {
  sent = [];
  queryClient.clear();
  vi.stubGlobal("fetch", async (request: Request) => {
    const path = new URL(request.url).pathname;
    sent.push({
      path,
      body: request.method === "POST" ? ((await request.json()) as Record<string, unknown>) : {},
    });
    const answered = reply(path);
    if (answered instanceof Error) throw answered;
    return answered;
  });
});
afterEach(() => {
  vi.unstubAllGlobals();
  vi.useRealTimers();
  document.body.innerHTML = "";
});

it("finds the sample in the square of a tag, and nothing in any other", () => {
  const id = "0b6f3f5e-3a51-4c5e-9a52-6d1c8a5b2f10";
  expect(sampleIn(`https://tally.example/s/${id}`)).toBe(id);
  for (const text of [
    `https://tally.example/s/${id}/x`,
    `javascript:alert(1)//s/${id}`,
    "flask 412",
    `/s/${id}`,
    "",
  ])
    expect(sampleIn(text)).toBeNull();
});

it("draws labels that are used, those that tags go on and those left over", () => {
  const sheet: Schemas["SheetSize"] = {
    key: "k",
    name: "n",
    paper: "a4",
    page: [210, 297],
    count: 8,
    across: 2,
    down: 4,
    width: 99,
    height: 67,
    left: 5,
    top: 13,
    gap: 2,
  };
  const picture = mount(LabelSheetPicture, { props: { sheet, skip: 3, tags: 4 } });
  expect(picture.findAll("path[fill='var(--ink)']")).toHaveLength(4);
  expect(picture.findAll("path[stroke='var(--soft)']")).toHaveLength(3);
  expect(picture.text()).toBe("4 tags on one sheet");
});

const dose = (more: Partial<Schemas["GivenDose"]> = {}): Schemas["GivenDose"] => ({
  dose: "d",
  product: "Tea",
  planned: "3 mL",
  unit: "mL",
  times: 1,
  given_times: 0,
  given: "",
  off: "",
  matters: false,
  note: "",
  by: "",
  at: null,
  ...more,
});
const card = (one: Schemas["GivenDose"]) =>
  mount(GiveCard, {
    props: {
      row: {
        code: "412",
        block: "",
        place: 1,
        row: null,
        column: null,
        letter: "A",
        treatment: "Tea",
        doses: [one],
        started_at: null,
      },
      may: true,
      busy: false,
      covered: false,
      zone: "UTC",
    },
  });

it("notes a dose as planned with one tap, another amount by writing it, and corrects one that was noted", async () => {
  reply = () => json(200, { devices: [] });
  const fresh = card(dose());
  await fresh.find("button").trigger("click");
  expect(fresh.emitted("give")).toEqual([["d", "", "", false]]);
  const noted = card(dose({ given_times: 1, given: "3 mL" }));
  expect(noted.text()).toContain("3 mL given");
  await noted.find("button").trigger("click");
  await noted.find("input").setValue("2 mL");
  await noted.find("form").trigger("submit");
  expect(noted.emitted("give")).toEqual([["d", "2 mL", "", true]]);
  const second = card(dose({ times: 2, given_times: 1, given: "3 mL" }));
  expect(second.findAll("button").map((one) => one.text())).toEqual(["Given", "Otherwise"]);
});

it("sends what was given again until the server has it, under the same id", async () => {
  vi.useFakeTimers({ shouldAdvanceTime: true });
  let tries = 0;
  reply = (path) =>
    path.endsWith("/applications") && ++tries < 3
      ? new TypeError("offline")
      : json(200, { rows: [], covered: false });
  let giving!: ReturnType<typeof useGiving>;
  const page = mount({ setup: () => ((giving = useGiving("t")), () => null) });
  const done = giving.give([{ id: "x", code: "412", dose: "d", given: "", note: "", corrects: false }], null);
  await vi.advanceTimersByTimeAsync(50);
  expect(giving.reached.value).toBe(false);
  await vi.advanceTimersByTimeAsync(7_000);
  await done;
  expect(giving.reached.value).toBe(true);
  const bodies = sent
    .filter((one) => one.path.endsWith("/applications"))
    .map((one) => JSON.stringify(one.body));
  expect(bodies).toHaveLength(3);
  expect(new Set(bodies).size).toBe(1);
  page.unmount();
});

it("reads an instrument where one measures in that unit, and says what is wrong with it", async () => {
  reply = () => json(200, { devices: [] });
  const none = mount(ReadDevice, { props: { unit: "pH", what: "Acidity" } });
  await flushPromises();
  expect(none.find("button").exists()).toBe(false);
  reply = (path) =>
    path.endsWith("/read")
      ? json(503, {
          problems: [{ at: "", says: "Bench scale does not answer. Type the value instead, or try again." }],
        })
      : json(200, { devices: [{ key: "scale", name: "Bench scale", units: ["g"] }] });
  const scale = mount(ReadDevice, { props: { unit: "g", what: "Weight" } });
  await flushPromises();
  await scale.find("button").trigger("click");
  await flushPromises();
  expect(scale.find("[role=alert]").text()).toContain("does not answer");
  expect(scale.emitted("read")).toBeUndefined();
  const reading = { value: 83.2, unit: "g", spread: 0.1, at: "2026-05-01T09:00:00Z", device: "Bench scale" };
  reply = () => json(200, reading);
  await scale.find("button").trigger("click");
  await flushPromises();
  expect(scale.find("[role=alert]").exists()).toBe(false);
  expect(scale.emitted("read")).toEqual([[reading]]);
});

it("takes a sum's result into the field it was pulled out beside, and writes it into the log with its working", async () => {
  const found = {
    says: "3 mL for each.",
    steps: ["4 mL/L × 0.75 L = 3 mL."],
    advice: [],
    value: 3,
    unit: "mL",
  };
  reply = (path) =>
    path.endsWith("/notes")
      ? json(204, null)
      : path.endsWith("/bench") && sure(sent.at(-1)).body.sum
        ? json(200, found)
        : json(200, {
            sums: [
              {
                key: "label",
                name: "Dose",
                formula: "rate × size",
                asks: [{ key: "rate", label: "Rate", example: "4 mL/L", optional: false }],
              },
            ],
          });
  const drawer = mount(BenchDrawer, {
    props: { field: "Water", unit: "mL", trial: "t", begin: "label" },
    attachTo: document.body,
  });
  const press = (text: string) =>
    sure(
      [...document.querySelectorAll<HTMLButtonElement>("button")].find(
        (one) => sure(one.textContent).trim() === text,
      ),
    );
  await drawer.find("button").trigger("click");
  await vi.dynamicImportSettled();
  await flushPromises();
  sure([...document.querySelectorAll("form")].at(-1)).dispatchEvent(new Event("submit"));
  await flushPromises();
  press("Write it into the log").click();
  await flushPromises();
  expect(sure(sent.find((one) => one.path.endsWith("/notes"))).body).toEqual({
    id: expect.any(String) as string,
    text: "Dose: 3 mL for each.",
    working: found.steps[0],
  });
  press("Use it for Water").click();
  expect(drawer.emitted("take")).toEqual([[{ value: 3, text: "3 mL", working: `Dose: ${found.steps[0]}` }]]);
  drawer.unmount();
});
