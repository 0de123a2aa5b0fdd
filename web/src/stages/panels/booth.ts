/** Answers in the booth: what one must look like, and giving them to the outbox of this device. */
import { sure } from "@/parts/sure";
import { answer, api, trusted, type Schemas } from "@/shell/api/client";
import { Declined, type Problem } from "@/shell/api/problems";
import type { Judgement } from "@/shell/offline/device";
import { boothLane, deviceName } from "@/shell/offline/senders";
import { keep, waitingOf, type Waiting } from "@/shell/outbox";

export { boothLane } from "@/shell/offline/senders";
export type { Judgement } from "@/shell/offline/device";
export type Booth = Schemas["BoothOut"];

/** How an answer is given: one cup, two that go together, yes or no, a name for each, all in order, or grades
 * alone.
 */
export type Way = "one" | "two" | "yes" | "names" | "order" | "grades";
const WAYS: Record<string, Way> = {
  tetrad: "two",
  "a-not-a": "yes",
  "same-different": "yes",
  naming: "names",
  ranking: "order",
  grading: "grades",
};
export const wayOf = (method: string): Way => WAYS[method] ?? "one";

/** What the two answers of a yes-or-no test are called; the first counts as 1. */
export const YES: Record<string, [string, string]> = {
  "a-not-a": ["It is A", "It is not A"],
  "same-different": ["They differ", "They are the same"],
};

/** Whether what was tapped so far is a whole answer. */
export function isWhole(way: Way, chosen: number[], cups: number, eachOnce: boolean): boolean {
  if (way === "grades") return true;
  if (way === "two") return chosen.length === 2;
  if (way === "order") return chosen.length === cups;
  if (way === "names")
    return (
      chosen.length === cups &&
      chosen.every((one) => one >= 0) &&
      (!eachOnce || new Set(chosen).size === cups)
    );
  return chosen.length === 1;
}

/** What is chosen after a tap on a cup. */
export function tapped(way: Way, chosen: number[], place: number): number[] {
  if (way === "one") return [place];
  if (chosen.includes(place)) return chosen.filter((one) => one !== place);
  return way === "two" && chosen.length === 2 ? [sure(chosen[1]), place] : [...chosen, place];
}

const KEPT = "field-tally/booth/";
interface Kept {
  booth?: Booth;
  /** Answers as earlier versions kept them. */
  waiting?: Judgement[];
  refused?: { judgement: Judgement; says: string }[];
}
function keptOf(token: string): Kept {
  try {
    return JSON.parse(localStorage.getItem(KEPT + token) ?? "{}") as Kept;
  } catch {
    return {};
  }
}

/** The booth as it was when it could last be asked for. */
export const keptBooth = (token: string) => keptOf(token).booth;
export function keepBooth(token: string, booth: Booth): void {
  const { waiting, refused } = keptOf(token);
  localStorage.setItem(KEPT + token, JSON.stringify({ waiting, refused, booth }));
}

/** Keep an answer on this device; the outbox sends it. */
export const lockIn = (token: string, body: Judgement, cups: string) =>
  keep({
    kind: "answer",
    body,
    id: body.id,
    lane: boothLane(token),
    trial: "",
    person: 0,
    called: `Your answer on ${cups}`,
    given_at: body.given_at,
  });

/** What of a booth's answers is on this device alone, in the order they were given; what an earlier version
 * kept goes to the outbox first.
 */
export async function answersHere(token: string): Promise<Waiting[]> {
  const { booth, waiting = [], refused = [] } = keptOf(token);
  const cupsOf = (one: Judgement) =>
    booth?.sets.find((set) => set.id === one.serving)?.codes.join(", ") ?? "a set";
  for (const one of [...waiting, ...refused.map((each) => each.judgement)])
    await lockIn(token, one, cupsOf(one)).catch(() => undefined);
  if (waiting.length || refused.length) localStorage.setItem(KEPT + token, JSON.stringify({ booth }));
  return await waitingOf(boothLane(token));
}
/** The sets that are answered here, whatever the server knows of it. */
export const answeredIn = (rows: Waiting[]) =>
  rows.flatMap((row) => (row.kind === "answer" ? [row.body.serving] : []));

const asked = (token: string) => ({
  params: { path: { token }, header: { "X-Booth-Device": deviceName() } },
});

export const sitDown = (token: string) => answer(api.GET("/api/booth/{token}", asked(token)));
export const agree = (token: string, adult: boolean) =>
  answer(api.POST("/api/booth/{token}/consent", { ...asked(token), body: { agreed: true, adult } }));

export const goNoFurther = (token: string) => answer(api.POST("/api/booth/{token}/stop", asked(token)));
export const cardOf = (token: string) => answer(api.GET("/api/booth/{token}/card", asked(token)));
/** Take a seat over to this phone by the short code that the host gave out; the link to its booth. */
export const moveSeat = (code: string) => answer(api.POST("/api/seats", { body: { code } }));
export const tableOf = (token: string) => answer(api.GET("/api/tables/{token}", asked(token)));

const SHELF = "field-tally-booth";
/** What is played or shown for a cup, kept on this device so that it is there without a network too. */
export const cupFile = (token: string, set: string, place: number) =>
  boothFile(`/api/booth/${token}/sets/${set}/${place}`);
async function boothFile(path: string): Promise<Blob> {
  const shelf = "caches" in window ? await caches.open(SHELF) : null;
  const kept = await shelf?.match(path);
  if (kept) return await kept.blob();
  const response = await trusted(new Request(path, { headers: { "X-Booth-Device": deviceName() } }));
  if (!response.ok) {
    const told = (await response.json().catch(() => ({}))) as { problems?: Problem[] };
    throw new Declined(response.status, told.problems ?? []);
  }
  await shelf?.put(path, response.clone());
  return await response.blob();
}
/** Fetch all that will be played or shown, and drop what was, set by set. */
export async function stockUp(token: string, booth: Booth): Promise<void> {
  if (booth.material === "cups" || !booth.consented || booth.state !== "open") return;
  if (booth.shows_a)
    for (const stimulus of new Set(booth.sets.map((one) => one.stimulus)))
      await knownFile(token, stimulus).catch(() => undefined);
  for (const set of booth.sets.filter((one) => !one.answered))
    for (const place of set.codes.keys()) await cupFile(token, set.id, place).catch(() => undefined);
}
/** A by its name, to be heard or seen before it is asked for. */
export async function knownFile(token: string, stimulus: number): Promise<Blob> {
  return await boothFile(`/api/booth/${token}/known/${stimulus}`);
}
export async function dropFiles(token: string, set: string, cups: number): Promise<void> {
  if (!("caches" in window)) return;
  const shelf = await caches.open(SHELF);
  for (let place = 0; place < cups; place++) await shelf.delete(`/api/booth/${token}/sets/${set}/${place}`);
}
