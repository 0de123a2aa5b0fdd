import { sure } from "@/parts/sure";
import { flushPromises, mount } from "@vue/test-utils";
import { afterEach, beforeEach, expect, it, vi } from "vitest";

import BenchPage from "./BenchPage.vue";
import OwnPrediction from "@/stages/plan/OwnPrediction.vue";

const json = (status: number, body: unknown) =>
  new Response(JSON.stringify(body), { status, headers: { "Content-Type": "application/json" } });
const SUMS = {
  sums: [
    {
      key: "label",
      name: "Dose by the label’s rate",
      formula: "rate × size",
      asks: [{ key: "rate", label: "Rate", example: "4 mL/L", optional: false }],
    },
    {
      key: "change",
      name: "Percent change",
      formula: "(after − before) / before",
      asks: [{ key: "before", label: "Before", example: "20", optional: false }],
    },
  ],
};
let sent: { method: string; body: Record<string, unknown> }[] = [];
let reply: () => Response;
beforeEach(() => {
  sent = [];
  vi.stubGlobal("fetch", async (request: Request) => {
    const body = request.method === "GET" ? {} : ((await request.json()) as Record<string, unknown>);
    sent.push({ method: request.method, body });
    return request.url.endsWith("/bench") && request.method === "GET" ? json(200, SUMS) : reply();
  });
});
afterEach(() => vi.unstubAllGlobals());

async function bench() {
  const page = mount(BenchPage, { global: { stubs: { RouterLink: true } }, attachTo: document.body });
  await flushPromises();
  return page;
}

it("works a sum out and shows its steps and what to do", async () => {
  reply = () =>
    json(200, {
      says: "3 mL for each.",
      steps: ["Rate: 4 milliliters for each 1 liter."],
      advice: ["Make a stock."],
    });
  const page = await bench();
  await page.find("input").setValue("4 mL/L");
  await page.find("select").setValue("us");
  await page.find("form").trigger("submit");
  await flushPromises();
  expect(sure(sent.at(-1)).body).toEqual({ sum: "label", given: { rate: "4 mL/L" }, system: "us" });
  expect(page.find("[role=status]").text()).toContain("3 mL for each.");
  expect(page.find("[aria-label=Advice]").text()).toContain("Make a stock.");
});

it("says what is wrong at its field, and begins afresh with another sum", async () => {
  reply = () => json(422, { problems: [{ at: "given.rate", says: "Write it as in 4 mL/L." }] });
  const page = await bench();
  await page.find("form").trigger("submit");
  await flushPromises();
  expect(page.find("[role=alert]").text()).toBe("Write it as in 4 mL/L.");
  await page.find("input").setValue("7");
  await sure(page.findAll("nav button")[1]).trigger("click");
  expect(page.find("h2").text()).toBe("Percent change");
  expect(page.find("input").element.value).toBe("");
});

it("keeps a prediction sealed, and sends it only when it has changed", async () => {
  const kept = { text: "The wax.", at: "2026-05-01T09:00:00Z", written: 3 };
  reply = () => json(200, kept);
  const field = mount(OwnPrediction, { props: { trial: "t", zone: "UTC" } });
  await flushPromises();
  expect(field.text()).toContain("Sealed 1 May, 09:00. Nobody else reads it");
  expect(field.text()).toContain("2 more people have written theirs.");
  await field.find("textarea").trigger("change");
  await flushPromises();
  expect(sent.map((one) => one.method)).toEqual(["GET"]);
  await field.find("textarea").setValue("The oil.");
  await field.find("textarea").trigger("change");
  await flushPromises();
  expect(sent.at(-1)).toEqual({ method: "PUT", body: { text: "The oil." } });
  expect(field.emitted("written")).toEqual([[3], [3]]);
  await field.setProps({ opened: true });
  expect(field.find("textarea").attributes("disabled")).toBeDefined();
});
