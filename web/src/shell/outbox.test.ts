import { sure } from "@/parts/sure";
import "fake-indexeddb/auto";
import { afterEach, beforeEach, expect, it, vi } from "vitest";

import type { Reading } from "./outbox";

/** Patient, so that a busy machine is no failure. */
const soon = <T>(check: () => T) => vi.waitFor(check, { timeout: 10_000 });
type Answer = () => Response | Promise<Response>;
let sent: Reading[][] = [];
let answers: Answer[] = [];
const always = (answer: Answer) => (answers = Array<Answer>(50).fill(answer));
const json = (status: number, body: unknown) =>
  new Response(JSON.stringify(body), { status, headers: { "Content-Type": "application/json" } });
const problem = (status: number, says: string) =>
  json(status, { problems: [{ at: "readings.0.value", says }] });
/** The server as it should be: it stores what it gets. */
const stores = () => json(200, { odd: [], stored: sure(sent.at(-1)).map((reading) => reading.id) });

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
  const outbox = await import("./outbox");
  outbox.nowHere(1);
  return {
    ...outbox,
    keep: (trial: string, person: number, one: Reading) => outbox.keep(given(trial, person, one)),
  };
}
const given = (trial: string, person: number, one: Reading) => ({
  kind: "reading" as const,
  body: one,
  id: one.id,
  lane: `${trial}/${person}`,
  trial,
  person,
  round: one.round,
  called: `${one.sample}, ${one.outcome}`,
  given_at: one.taken_at,
});

/** What a test leaves behind would send what the next one keeps, once a slow machine comes to it. */
const wake = window.setTimeout.bind(window);
let woken: number[] = [];
beforeEach(async () => {
  sent = [];
  answers = [];
  vi.stubGlobal("setTimeout", (...what: Parameters<typeof wake>) => {
    woken.push(wake(...what));
    return woken.at(-1);
  });
  vi.stubGlobal("fetch", async (request: Request) => {
    sent.push(((await request.json()) as { readings: Reading[] }).readings);
    return await sure(answers.shift())();
  });
  const { device } = await box();
  await device.waiting.clear();
});
afterEach(() => {
  woken.forEach((one) => clearTimeout(one));
  woken = [];
  vi.unstubAllGlobals();
});

it("leaves nothing to be sent by the tests after it", async () => {
  const { keep } = await box();
  always(() => Promise.reject(new TypeError("no network")));
  await keep("t", 1, reading(1));
  await soon(() => expect(sent.length).toBeGreaterThan(0));
  // Tried again later: by a timer that ends with this test.
  await soon(() => expect(woken.length).toBeGreaterThan(0));
});

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
  await soon(() => expect(settled).toHaveBeenCalledWith(expect.objectContaining({ odd: [], refused: [] })));
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
    await send("t/1");
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
  expect(sure((await waitingIn("r", 1))[0]).refused).toBe("");
});

it("leaves behind only the faulty one of a lot, with the reason", async () => {
  const { keep, waitingIn, send, onSettled } = await box();
  always(() => Promise.reject(new TypeError("no network")));
  for (const n of [1, 2, 3]) await keep("t", 1, reading(n));
  await soon(() => expect(sent.length).toBeGreaterThan(0));
  const settled: string[] = [];
  onSettled(({ rows }) => settled.push(...rows.map((row) => row.id)));
  always(() =>
    sure(sent.at(-1)).some((one) => one.value === 2) ? problem(422, "2 is not one of the grades.") : stores(),
  );
  await soon(async () => {
    await send("t/1");
    expect(settled).toHaveLength(3);
  });
  const left = await waitingIn("r", 1);
  expect(left.map((one) => [(one.body as Reading).value, one.refused])).toEqual([
    [2, "2 is not one of the grades."],
  ]);
  sent = [];
  await send("t/1");
  expect(sent).toEqual([]);
});

it("holds everything back while signed out, and loses nothing", async () => {
  const { keep, waitingIn, held, resume } = await box();
  always(() => problem(401, "Please sign in first."));
  await keep("t", 1, reading(1));
  await soon(() => expect(held.value).toBe("Please sign in first."));
  expect(sure((await waitingIn("r", 1))[0]).refused).toBe("");
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
  // All in one instant: then the moment each was given decides.
  vi.spyOn(Date, "now").mockReturnValue(1);
  for (const n of [2, 1, 3])
    journal({ ...given("t", 1, { ...reading(n), taken_at: `2026-01-01T00:00:0${n}Z` }), refused: "" });
  vi.restoreAllMocks();
  const next = await box();
  await next.device.waiting.add({ ...given("t", 1, reading(3)), refused: "" });
  answers = [() => stores()];
  expect((await next.waitingIn("r", 1)).map((one) => one.id).sort()).toEqual(
    [1, 2, 3].map((n) => reading(n).id),
  );
  expect(localStorage).toHaveLength(0);
  await next.resume(1);
  await soon(() => expect(sent).toHaveLength(1));
  expect(
    sure(sent[0])
      .slice(1)
      .map((one) => one.value),
  ).toEqual([1, 2]);
});

const fails = (id: string) =>
  always(() => (sure(sent.at(-1)).some((one) => one.id === id) ? problem(422, "Not so.") : stores()));

it("lets what was turned down be sent again, or discarded", async () => {
  const { keep, waitingOf, sendAgain, discard } = await box();
  fails(reading(1).id);
  await keep("t", 1, reading(1));
  await soon(async () => expect(sure((await waitingOf("t/1"))[0]).refused).toBe("Not so."));
  await sendAgain(sure((await waitingOf("t/1"))[0]));
  expect(sure((await waitingOf("t/1"))[0]).refused).toBe("Not so.");
  always(stores);
  await sendAgain(sure((await waitingOf("t/1"))[0]));
  expect(await waitingOf("t/1")).toEqual([]);
  fails(reading(2).id);
  await keep("t", 1, reading(2));
  await soon(async () => expect(sure((await waitingOf("t/1"))[0]).refused).toBe("Not so."));
  sent = [];
  await discard(sure((await waitingOf("t/1"))[0]));
  expect([await waitingOf("t/1"), sent]).toEqual([[], []]);
});

it("keeps what was turned down as a note that says what it was, when it was given and why it was not taken", async () => {
  const { keep, waitingOf, keepAsNote } = await box();
  fails(reading(1).id);
  await keep("t", 1, reading(1));
  await soon(async () => expect(sure((await waitingOf("t/1"))[0]).refused).toBe("Not so."));
  let note: unknown;
  vi.stubGlobal("fetch", async (request: Request) => {
    note = [new URL(request.url).pathname, await request.json()];
    return json(200, { id: "x" });
  });
  await keepAsNote(sure((await waitingOf("t/1"))[0]));
  expect(await waitingOf("t/1")).toEqual([]);
  expect(note).toEqual([
    "/api/trials/t/notes",
    {
      id: expect.any(String) as string,
      working: "",
      text: expect.stringMatching(/s1, o, given .*2026.* Not so\./) as string,
    },
  ]);
});

it("sends each kind in its turn, one after the other, and a picture after the note it belongs to", async () => {
  const { keep: keepReading, waitingOf, send } = await box();
  const { keep } = await import("./outbox");
  always(() => Promise.reject(new TypeError("no network")));
  await keepReading("t", 1, reading(1));
  const whose = { lane: "t/1", trial: "t", person: 1, given_at: "2026-01-01T00:00:00Z" };
  await keep({
    ...whose,
    id: "n",
    called: "A note",
    kind: "note",
    body: { id: "n", text: "rain", working: "" },
  });
  await keep({
    ...whose,
    id: "p",
    called: "A photo",
    kind: "photo",
    body: { note: "n" },
    file: new Blob(["x"]),
  });
  await keepReading("t", 1, reading(2));
  const paths: string[] = [];
  vi.stubGlobal("fetch", async (request: Request) => {
    paths.push(new URL(request.url).pathname);
    const { readings } = request.headers.get("Content-Type")?.includes("json")
      ? ((await request.json()) as { readings?: Reading[] })
      : {};
    return json(200, { odd: [], stored: readings?.map((one) => one.id) ?? [] });
  });
  await soon(async () => {
    await send("t/1");
    expect(await waitingOf("t/1")).toEqual([]);
  });
  expect(paths.map((path) => path.split("/").at(-1))).toEqual(["readings", "notes", "photos", "readings"]);
});

it("is not kept waiting by what the server does not say it has", async () => {
  const { keep, waitingOf } = await box();
  always(() => json(200, { odd: [], stored: [] }));
  await keep("t", 1, reading(1));
  await soon(() => expect(sent.length).toBeGreaterThan(0));
  expect((await waitingOf("t/1")).map((one) => one.refused)).toEqual([""]);
});

it("gives a form its words back, with the sentences of its fields", async () => {
  await box();
  const { trySending, waitingOf } = await import("./outbox");
  vi.stubGlobal("fetch", async () =>
    json(422, { problems: [{ at: "temperature", says: "That cannot be.", asks: false }] }),
  );
  const body = {
    id: "c",
    place: "",
    temperature: 999,
    humidity: null,
    rain: null,
    light: null,
    at: null,
    from_station: false,
  };
  const tried = trySending({
    id: "c",
    lane: "t/1",
    trial: "t",
    person: 1,
    given_at: "2026-01-01T00:00:00Z",
    called: "Conditions",
    kind: "conditions",
    body,
  });
  await expect(tried).rejects.toMatchObject({ problems: [{ at: "temperature", says: "That cannot be." }] });
  expect(await waitingOf("t/1")).toEqual([]);
});

it("takes over what an earlier version kept: readings and photos in tables of their own", async () => {
  const { asWaiting, photoAsWaiting } = await import("./offline/device");
  expect(
    asWaiting({
      place: 4,
      id: reading(1).id,
      trial: "t",
      person: 1,
      round: "r",
      reading: reading(1),
      refused: "",
    }),
  ).toMatchObject({ place: 4, kind: "reading", body: reading(1), lane: "t/1" });
  const photo = photoAsWaiting({
    id: "p",
    trial: "t",
    person: 1,
    file: new Blob(["x"]),
    shown: { sample: "s" },
    taken_at: "2026-01-01T00:00:00Z",
  });
  expect(photo).toMatchObject({
    kind: "photo",
    body: { sample: "s" },
    lane: "t/1/photos",
    given_at: "2026-01-01T00:00:00Z",
    refused: "",
  });
});
