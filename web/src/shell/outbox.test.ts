import "fake-indexeddb/auto";
import { afterEach, beforeEach, expect, it, vi } from "vitest";

import type { Reading } from "./outbox";

/** Patient, so that a busy machine is no failure. */
const soon = <T>(check: () => T) => vi.waitFor(check, { timeout: 10_000 });
type Answer = () => Response | Promise<Response>;
let sent: Reading[][] = [];
let answers: Answer[] = [];
const always = (answer: Answer) => (answers = Array(50).fill(answer));
const json = (status: number, body: unknown) =>
  new Response(JSON.stringify(body), { status, headers: { "Content-Type": "application/json" } });
const problem = (status: number, says: string) => json(status, { problems: [{ at: "readings.0.value", says }] });
/** The server as it should be: it stores what it gets. */
const stores = () => json(200, { odd: [], stored: sent.at(-1)!.map((reading) => reading.id) });

const reading = (n: number): Reading => ({
  id: `00000000-0000-4000-8000-00000000000${n}`,
  round: "r",
  sample: `s${n}`,
  outcome: "o",
  kind: "value",
  value: n,
  words: "",
  responses: null,
  reason: "",
  source: "typed",
  device: "",
  take: 1,
  taken_at: "2026-01-01T00:00:00Z",
});

async function box() {
  vi.resetModules();
  return await import("./outbox");
}

beforeEach(async () => {
  sent = [];
  answers = [];
  vi.stubGlobal("fetch", async (request: Request) => {
    sent.push(((await request.json()) as { readings: Reading[] }).readings);
    return await answers.shift()!();
  });
  const { device } = await box();
  await device.waiting.clear();
});
afterEach(() => vi.unstubAllGlobals());

it("keeps a reading on the device until the server has said that it is stored", async () => {
  const { keep, waitingIn, onSettled } = await box();
  let release = () => {};
  answers = [() => new Promise((done) => (release = () => done(stores())))];
  const settled = vi.fn();
  onSettled(settled);
  await keep("t", 1, reading(1));
  await soon(() => expect(sent).toHaveLength(1));
  expect(await waitingIn("r", 1)).toHaveLength(1);
  release();
  await soon(() => expect(settled).toHaveBeenCalledWith([reading(1).id], []));
  expect(await waitingIn("r", 1)).toHaveLength(0);
});

it("keeps what it could not send, says so, and sends it once the server is back, in order", async () => {
  const { keep, waitingIn, send, reached } = await box();
  always(() => Promise.reject(new TypeError("no network")));
  for (const n of [1, 2, 3]) await keep("t", 1, reading(n));
  await soon(() => expect(reached.value).toBe(false));
  expect(await waitingIn("r", 1)).toHaveLength(3);
  always(stores);
  sent = [];
  await soon(async () => {
    await send("t", 1);
    expect(await waitingIn("r", 1)).toHaveLength(0);
  });
  expect(sent.flat().map((one) => one.value)).toEqual([1, 2, 3]);
  expect(reached.value).toBe(true);
});

it("keeps all on an error of the server itself", async () => {
  const { keep, waitingIn } = await box();
  always(() => new Response("broken", { status: 502 }));
  await keep("t", 1, reading(1));
  await soon(() => expect(sent.length).toBeGreaterThan(0));
  expect((await waitingIn("r", 1))[0]!.refused).toBe("");
});

it("leaves behind only the faulty one of a lot, with the reason", async () => {
  const { keep, waitingIn, send, onSettled } = await box();
  always(() => Promise.reject(new TypeError("no network")));
  for (const n of [1, 2, 3]) await keep("t", 1, reading(n));
  await soon(() => expect(sent.length).toBeGreaterThan(0));
  const settled: string[] = [];
  onSettled((ids) => settled.push(...ids));
  always(() => (sent.at(-1)!.some((one) => one.value === 2) ? problem(422, "2 is not one of the grades.") : stores()));
  await soon(async () => {
    await send("t", 1);
    expect(settled).toHaveLength(3);
  });
  const left = await waitingIn("r", 1);
  expect(left.map((one) => [one.reading.value, one.refused])).toEqual([[2, "2 is not one of the grades."]]);
  sent = [];
  await send("t", 1);
  expect(sent).toEqual([]);
});

it("holds everything back while signed out, and loses nothing", async () => {
  const { keep, waitingIn, held, resume } = await box();
  always(() => problem(401, "Please sign in first."));
  await keep("t", 1, reading(1));
  await soon(() => expect(held.value).toBe("Please sign in first."));
  expect((await waitingIn("r", 1))[0]!.refused).toBe("");
  always(stores);
  await resume(1);
  await soon(async () => expect(await waitingIn("r", 1)).toHaveLength(0));
  expect(held.value).toBe("");
});

it("never sends one person's readings as another", async () => {
  const { keep, waitingIn, resume } = await box();
  always(() => problem(401, "Please sign in first."));
  await keep("t", 1, reading(1));
  await soon(() => expect(sent).toHaveLength(1));
  sent = [];
  always(stores);
  await resume(2);
  expect(sent).toEqual([]);
  expect(await waitingIn("r", 1)).toHaveLength(1);
  expect(await waitingIn("r", 2)).toHaveLength(0);
});

it("takes over what an earlier page was still writing when it was closed, in its order", async () => {
  const { journal } = await import("./offline/journal");
  for (const n of [2, 1, 3]) journal({ id: reading(n).id, trial: "t", person: 1, round: "r", reading: { ...reading(n), taken_at: `2026-01-01T00:00:0${n}Z` }, refused: "" });
  const next = await box();
  await next.device.waiting.add({ id: reading(3).id, trial: "t", person: 1, round: "r", reading: reading(3), refused: "" });
  answers = [() => stores()];
  expect((await next.waitingIn("r", 1)).map((one) => one.id).sort()).toEqual([1, 2, 3].map((n) => reading(n).id));
  expect(localStorage).toHaveLength(0);
  await next.resume(1);
  await soon(() => expect(sent).toHaveLength(1));
  expect(sent[0]!.slice(1).map((one) => one.value)).toEqual([1, 2]);
});
