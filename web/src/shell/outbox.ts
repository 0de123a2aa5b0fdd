/** The outbox: readings are kept on this device first, and sent to the server as soon as it can be reached.
 *
 * Each has an id made here, so sending it twice stores it once.  A reading leaves the outbox only when the server has
 * said that it is stored; one that the server turned down stays, with the reason, until somebody has seen it.
 */
import { ref } from "vue";

import { answer, api, type Schemas } from "./api/client";
import { journal, takeOver, written } from "./offline/journal";
import { sendPhotos } from "./offline/photos";
import { noteStored } from "./offline/rounds";
import { device, type Reading, type Waiting } from "./offline/device";
import { Declined, Unreachable } from "./api/problems";

export type { Reading, Waiting } from "./offline/device";
export { device } from "./offline/device";

/** Whether the last attempt reached the server. */
export const reached = ref(true);
/** Why sending is held up though the server was reached (signed out, say); what waits goes on waiting. */
export const held = ref("");

const FIRST_WAIT = 1_000;
const LONGEST_WAIT = 60_000;
const AT_ONCE = 100;
const GATHER = 150;
const coming = new Set<string>();
const running = new Map<string, Promise<void>>();
const timers = new Map<string, { timer: number; wait: number }>();
const listeners = new Set<(stored: string[], odd: Odd[]) => void>();

/** A reading that is worth a second look, and why. */
export type Odd = Schemas["OddOut"];

/** Be told the ids that the server has stored or turned down, and which of them are odd; returns how to stop. */
export function onSettled(listen: (ids: string[], odd: Odd[]) => void): () => void {
  listeners.add(listen);
  return () => listeners.delete(listen);
}

/** Keep a reading on the device; resolves once it is there.
 *
 * It is written and committed in the very turn in which it was given, without waiting for the disk, so that it is out of the page's
 * hands before the page can be closed, however busy it is; until that write is done it also stands in the journal.  The disk
 * follows at once (see flush), for a browser that is killed or a battery that runs out.
 */
export async function keep(trial: string, person: number, reading: Reading): Promise<void> {
  const row: Waiting = { id: reading.id, trial, person, round: reading.round, reading, refused: "" };
  journal(row);
  if (!device.isOpen()) await device.open();
  await committed("waiting", "relaxed", (store) => store.add(row));
  written(row.id);
  void flush();
  soon(trial, person);
}

function committed(name: string, durability: "relaxed" | "strict", write: (store: IDBObjectStore) => void): Promise<void> {
  return new Promise((done, failed) => {
    const writing = device.backendDB().transaction(name, "readwrite", { durability });
    writing.oncomplete = () => done();
    writing.onabort = () => failed(writing.error ?? new Error("not kept"));
    write(writing.objectStore(name));
    writing.commit();
  });
}

let flushing = false;
let more = false;
/** Bring all that was kept so far to the disk.  One at a time: whatever is kept meanwhile goes with the next one. */
async function flush(): Promise<void> {
  more = true;
  if (flushing) return;
  flushing = true;
  try {
    while (more) {
      more = false;
      await committed("flushes", "strict", (store) => store.put({ id: 0, at: Date.now() }));
    }
  } catch {
    // The reading itself is kept; a disk that is slow or full shows with the next one.
  } finally {
    flushing = false;
  }
}

/** Send in a moment, with what is scored until then: while somebody types, the device is theirs. */
function soon(trial: string, person: number): void {
  const name = `${trial}/${person}`;
  if (coming.has(name)) return;
  coming.add(name);
  window.setTimeout(() => {
    coming.delete(name);
    void send(trial, person);
  }, GATHER);
}

/** Send all that still waits for a person, from whichever trial; called when they come back. */
export async function resume(person: number): Promise<void> {
  await takeOver();
  const rows = await device.waiting.filter((one) => one.person === person && !one.refused).toArray();
  for (const trial of new Set(rows.map((row) => row.trial))) void send(trial, person);
  void sendPhotos(person);
}

/** All that waits on this device for a person, in the order it was made. */
export async function waitingFor(person: number): Promise<Waiting[]> {
  await takeOver();
  return await device.waiting.where("place").above(0).filter((one) => one.person === person).sortBy("place");
}

/** What waits on this device for a round, in the order it was made. */
export async function waitingIn(round: string, person: number): Promise<Waiting[]> {
  await takeOver();
  return await device.waiting.where({ round }).filter((one) => one.person === person).sortBy("place");
}

/** Send what waits for a trial, one run at a time; tries again by itself when the server cannot be reached. */
export function send(trial: string, person: number): Promise<void> {
  const name = `${trial}/${person}`;
  const under = running.get(name);
  if (under) return under;
  const run = sendAll(trial, person).finally(() => running.delete(name));
  running.set(name, run);
  return run;
}

async function sendAll(trial: string, person: number): Promise<void> {
  const name = `${trial}/${person}`;
  for (;;) {
    const rows = await device.waiting.where({ trial, person }).filter((one) => !one.refused).limit(AT_ONCE).toArray();
    if (!rows.length) return;
    try {
      await sendSome(trial, rows);
      reached.value = true;
      held.value = "";
      const timer = timers.get(name);
      if (timer) window.clearTimeout(timer.timer);
      timers.delete(name);
    } catch (error) {
      if (error instanceof Declined && error.status < 500) {
        held.value = error.message;
        return;
      }
      reached.value = !(error instanceof Unreachable);
      again(trial, person);
      return;
    }
  }
}

/** Send rows; where the server turns the lot down, one by one, so that only the faulty ones stay behind. */
async function sendSome(trial: string, rows: Waiting[]): Promise<void> {
  try {
    const { stored, odd } = await answer(
      api.POST("/api/trials/{trial_id}/readings", {
        params: { path: { trial_id: trial } },
        body: { readings: rows.map((row) => row.reading) },
      }),
    );
    const settled = rows.filter((row) => stored.includes(row.id));
    await noteStored(settled.map((row) => row.reading));
    await device.waiting.bulkDelete(settled.map((row) => row.place!));
    listeners.forEach((listen) => listen(stored, odd));
  } catch (error) {
    if (!(error instanceof Declined) || ![404, 409, 422].includes(error.status)) throw error;
    if (rows.length > 1) {
      for (const row of rows) await sendSome(trial, [row]);
      return;
    }
    await device.waiting.update(rows[0]!.place!, { refused: error.message });
    listeners.forEach((listen) => listen([rows[0]!.id], []));
  }
}

function again(trial: string, person: number): void {
  const name = `${trial}/${person}`;
  const wait = Math.min(LONGEST_WAIT, (timers.get(name)?.wait ?? FIRST_WAIT / 2) * 2);
  window.clearTimeout(timers.get(name)?.timer);
  timers.set(name, { wait, timer: window.setTimeout(() => void send(trial, person), wait) });
}

window.addEventListener("online", () => {
  for (const name of timers.keys()) {
    const [trial, person] = name.split("/");
    void send(trial!, Number(person));
  }
});
