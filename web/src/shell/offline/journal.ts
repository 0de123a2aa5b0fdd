/** A journal beside the database of the device: what is given stands in it until the database has said that
 * it is written.
 *
 * A page that is closed in the very instant of a tap may take with it what the database was still about to
 * write; what local storage
 * was told is out of the page's hands at once.  What is found there at the next opening is taken over.
 */
import { sure } from "@/parts/sure";
import { asWaiting, device, type EarlierReading, type Waiting } from "./device";

const MARK = "field-tally/kept/";

interface Entry {
  at: number;
  row: Waiting;
}

export function journal(row: Waiting): void {
  // A picture is larger than this store; it is given by choosing a file, which takes longer than the database
  // does.
  if (row.kind === "photo") return;
  try {
    localStorage.setItem(MARK + row.id, JSON.stringify({ at: Date.now(), row } satisfies Entry));
  } catch {
    // Full or forbidden: the database alone has to do.
  }
}

export function written(id: string): void {
  try {
    localStorage.removeItem(MARK + id);
  } catch {
    // Forbidden: then it never got there either.
  }
}

let taken: Promise<void> | undefined;
/** Bring into the database what an earlier page left in the journal, in the order in which it was given; once
 * for each page.
 */
export const takeOver = (): Promise<void> => (taken ??= bringIn());

async function bringIn(): Promise<void> {
  const left = found().sort((a, b) => a.at - b.at || a.row.given_at.localeCompare(b.row.given_at));
  for (const { row } of left) {
    if (!(await device.waiting.get({ id: row.id }))) await device.waiting.add(row).catch(() => undefined);
    written(row.id);
  }
}

function found(): Entry[] {
  try {
    const names = Object.keys(localStorage).filter((name) => name.startsWith(MARK));
    return names.map((name) => {
      const entry = JSON.parse(sure(localStorage.getItem(name))) as {
        at: number;
        row: Waiting | EarlierReading;
      };
      return { at: entry.at, row: asWaiting(entry.row) };
    });
  } catch {
    return [];
  }
}
