/** The outbox: whatever is given on this device (readings, photos, conditions, notes, answers in a booth) is
 * kept on it first, and sent as soon
 * as the server can be reached.
 *
 * Each has an id made here, so sending it twice stores it once.  It leaves the outbox only when the server
 * has said that it is stored.
 * What the server turned down stays, with the reason, until somebody sends it again, keeps it as a note, or
 * discards it; it holds up
 * nothing that comes after it.
 */
import { sure } from "@/parts/sure";
import { ref } from "vue";

import { Declined, Unreachable, type Problem } from "./api/problems";
import { device, laneOf, type Content, type Waiting } from "./offline/device";
import { journal, takeOver, written } from "./offline/journal";
import { senderOf, type Odd } from "./offline/senders";

export type { Odd } from "./offline/senders";
export type { Reading, Waiting } from "./offline/device";
export { device, laneOf, photoLane } from "./offline/device";

/** Whether the last attempt reached the server. */
export const reached = ref(true);
/** Why sending is held up though the server was reached (signed out, say); what waits goes on waiting. */
export const held = ref("");

const FIRST_WAIT = 1_000;
const LONGEST_WAIT = 60_000;
const GATHER = 150;
const coming = new Set<string>();
const running = new Map<string, Promise<void>>();
const timers = new Map<string, { timer: number; wait: number }>();
/** What became of things that were sent: stored, or turned down with these sentences. */
export interface Settled {
  rows: Waiting[];
  odd: Odd[];
  refused: readonly Problem[];
}
const listeners = new Set<(settled: Settled) => void>();
/** Who is signed in on this page; nothing of anybody else's is sent meanwhile, since it would be taken for
 * theirs.
 */
let here: number | null = null;

/** Be told what has been stored or turned down; returns how to stop. */
export function onSettled(listen: (settled: Settled) => void): () => void {
  listeners.add(listen);
  return () => listeners.delete(listen);
}
const tell = (settled: Settled) => listeners.forEach((listen) => listen(settled));

/** Say who is signed in; null: nobody any more. */
export const nowHere = (person: number | null) => void (here = person);
export const isHere = (person: number) => here === person;

/** What is given to be kept: the rest is filled in here. */
export type Given = Content &
  Pick<Waiting, "id" | "lane" | "trial" | "person" | "called" | "given_at" | "insists"> & { round?: string };

/** Keep something on the device; resolves once it is there.
 *
 * It is written and committed in the very turn in which it was given, without waiting for the disk, so that
 * it is out of the page's
 * hands before the page can be closed, however busy it is; until that write is done it also stands in the
 * journal.  The disk
 * follows at once (see flush), for a browser that is killed or a battery that runs out.
 */
export async function keep(given: Given): Promise<void> {
  const row: Waiting = { round: "", ...given, refused: "" };
  journal(row);
  if (!device.isOpen()) await device.open();
  await committed("waiting", "relaxed", (store) => store.add(row));
  written(row.id);
  void flush();
  soon(row.lane);
}

function committed(
  name: string,
  durability: "relaxed" | "strict",
  write: (store: IDBObjectStore) => void,
): Promise<void> {
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
/** Bring all that was kept so far to the disk.  One at a time: whatever is kept meanwhile goes with the next
 * one.
 */
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
    // What was given is kept; a disk that is slow or full shows with the next one.
  } finally {
    flushing = false;
  }
}

/** Send in a moment, with what is given until then: while somebody types, the device is theirs. */
function soon(lane: string): void {
  if (coming.has(lane)) return;
  coming.add(lane);
  window.setTimeout(() => {
    coming.delete(lane);
    void send(lane);
  }, GATHER);
}

/** Send all that still waits for a person, from whichever trial, called when they come back; 0: for all
 * booths
 * of this device.
 */
export async function resume(person: number): Promise<void> {
  if (person) nowHere(person);
  await takeOver();
  const rows = await device.waiting
    .where({ person })
    .filter((one) => !one.refused)
    .toArray();
  for (const lane of new Set(rows.map((row) => row.lane))) void send(lane);
}

const listed = async (where: Partial<Waiting>): Promise<Waiting[]> => {
  await takeOver();
  return await device.waiting.where(where).sortBy("place");
};
/** All that waits on this device for a person, in the order it was given. */
export const waitingFor = (person: number) => listed({ person });
/** What waits in a lane, in the order it was given. */
export const waitingOf = (lane: string) => listed({ lane });
/** What waits for a round, in the order it was given. */
export const waitingIn = async (round: string, person: number) =>
  (await listed({ round })).filter((one) => one.person === person);

/** Send what waits in a lane, one run at a time; tries again by itself when the server cannot be reached. */
export function send(lane: string): Promise<void> {
  const under = running.get(lane);
  if (under) return under;
  const run = sendAll(lane).finally(() => running.delete(lane));
  running.set(lane, run);
  return run;
}

/** Keep something and try to send it at once; what became of it so far. */
export async function keepAndSend(given: Given): Promise<"stored" | "waits" | "refused"> {
  await keep(given);
  await send(given.lane);
  const left = await device.waiting.get({ id: given.id });
  if (!left) return "stored";
  return left.refused ? "refused" : "waits";
}

/** What is being tried for a form that still holds it: turned down, it is the form's alone again. */
const forms = new Set<string>();
/** The same for what still stands in its form: what is turned down is thrown, with its sentences.
 * True: stored. */
export async function trySending(given: Given): Promise<boolean> {
  let refusal: Declined | undefined;
  const stop = onSettled(({ rows, refused }) => {
    if (refused.length && rows.some((row) => row.id === given.id)) refusal = new Declined(422, [...refused]);
  });
  forms.add(given.id);
  try {
    const became = await keepAndSend(given);
    if (refusal) throw refusal;
    return became === "stored";
  } finally {
    stop();
    forms.delete(given.id);
  }
}

/** The next things of a lane that may go together: all of one kind. */
async function next(lane: string): Promise<Waiting[]> {
  const first = await device.waiting
    .where({ lane })
    .filter((one) => !one.refused)
    .first();
  if (!first || (first.person && first.person !== here)) return [];
  const rows = await device.waiting
    .where({ lane })
    .filter((one) => !one.refused)
    .limit(senderOf(first).atOnce)
    .toArray();
  const other = rows.findIndex((row) => row.kind !== first.kind);
  return other < 0 ? rows : rows.slice(0, other);
}

async function sendAll(lane: string): Promise<void> {
  for (;;) {
    const rows = await next(lane);
    if (!rows.length) return;
    try {
      await sendSome(rows);
      reached.value = true;
      held.value = "";
      window.clearTimeout(timers.get(lane)?.timer);
      timers.delete(lane);
    } catch (error) {
      reached.value = !(error instanceof Unreachable);
      if (error instanceof Declined && !passes(error)) held.value = error.message;
      // Who is signed out is asked to sign in, which sends it; all else may pass by itself.
      if (!(error instanceof Declined && error.status === 401)) later(lane);
      return;
    }
  }
}

/** Whether a failure is the server's or the network's of this moment, so that the same thing may be sent once
 * more by itself.
 */
const passes = ({ status }: Declined) => status >= 500 || status === 429 || status === 408;
/** Whether the server has understood and will not have it: not so where it only did not know who asks. */
const isRefusal = (error: unknown): error is Declined =>
  error instanceof Declined &&
  !passes(error) &&
  error.status !== 401 &&
  (error.status !== 403 || error.explained);

/** Send rows; where the server turns the lot down, one by one, so that only the faulty ones stay behind. */
async function sendSome(rows: Waiting[]): Promise<void> {
  try {
    const odd = await senderOf(sure(rows[0])).send(rows);
    await device.waiting.bulkDelete(rows.map((row) => sure(row.place)));
    tell({ rows, odd, refused: [] });
  } catch (error) {
    if (!isRefusal(error)) throw error;
    if (rows.length > 1) {
      for (const row of rows) await sendSome([row]);
      return;
    }
    const [row] = rows as [Waiting];
    if (forms.has(row.id)) await device.waiting.delete(sure(row.place));
    else await device.waiting.update(sure(row.place), { refused: error.message });
    tell({ rows, odd: [], refused: error.problems });
  }
}

function later(lane: string): void {
  const wait = Math.min(LONGEST_WAIT, (timers.get(lane)?.wait ?? FIRST_WAIT / 2) * 2);
  window.clearTimeout(timers.get(lane)?.timer);
  timers.set(lane, { wait, timer: window.setTimeout(() => void send(lane), wait) });
}

window.addEventListener("online", () => {
  for (const lane of timers.keys()) void send(lane);
});

/** Let what was turned down wait once more, and send it. */
export async function sendAgain(row: Waiting): Promise<void> {
  await device.waiting.update(sure(row.place), { refused: "" });
  await send(row.lane);
}

/** Let go of what was turned down. */
export const discard = (row: Waiting): Promise<void> => device.waiting.delete(sure(row.place));

/** Keep what was turned down as a note in the log of its trial: a picture goes with it. */
export async function keepAsNote(row: Waiting): Promise<void> {
  const note = crypto.randomUUID();
  const lane = laneOf(row.trial, row.person);
  const whose = {
    lane,
    trial: row.trial,
    person: row.person,
    given_at: row.given_at,
    round: "",
    refused: "",
  };
  const text = `Not taken as what it was, so kept as a note. ${row.called}, given ${new Date(row.given_at).toLocaleString("en-GB")}. ${row.refused}`;
  await device.transaction("rw", device.waiting, async () => {
    await device.waiting.add({
      ...whose,
      id: note,
      called: "A note",
      insists: true,
      kind: "note",
      body: { id: note, text, working: "" },
    });
    const picture: Content | undefined =
      row.kind === "photo" ? { kind: "photo", body: { note }, file: row.file } : undefined;
    if (picture)
      await device.waiting.add({
        ...whose,
        ...picture,
        id: crypto.randomUUID(),
        called: row.called,
      });
    await device.waiting.delete(sure(row.place));
  });
  await send(lane);
}
