/** Answers in the booth: what one must look like, and what waits on this device until the server has it. */
import { answer, api, trusted, type Schemas } from "@/shell/api/client";
import { Declined, type Problem } from "@/shell/api/problems";

export type Booth = Schemas["BoothOut"];
export type Judgement = Schemas["JudgementIn"];

/** How an answer is given: one cup, two that go together, yes or no, a name for each, all in order, or grades alone. */
export type Way = "one" | "two" | "yes" | "names" | "order" | "grades";
const WAYS: Record<string, Way> = { tetrad: "two", "a-not-a": "yes", "same-different": "yes", naming: "names", ranking: "order", grading: "grades" };
export const wayOf = (method: string): Way => WAYS[method] ?? "one";

/** What the two answers of a yes-or-no test are called; the first counts as 1. */
export const YES: Record<string, [string, string]> = { "a-not-a": ["It is A", "It is not A"], "same-different": ["They differ", "They are the same"] };

/** Whether what was tapped so far is a whole answer. */
export function isWhole(way: Way, chosen: number[], cups: number, eachOnce: boolean): boolean {
  if (way === "grades") return true;
  if (way === "two") return chosen.length === 2;
  if (way === "order") return chosen.length === cups;
  if (way === "names") return chosen.length === cups && chosen.every((one) => one >= 0) && (!eachOnce || new Set(chosen).size === cups);
  return chosen.length === 1;
}

/** What is chosen after a tap on a cup. */
export function tapped(way: Way, chosen: number[], place: number): number[] {
  if (way === "one") return [place];
  if (chosen.includes(place)) return chosen.filter((one) => one !== place);
  return way === "two" && chosen.length === 2 ? [chosen[1]!, place] : [...chosen, place];
}

const KEPT = "field-tally/booth/";
/** An answer that the server turned down, and its sentence: it stays here until somebody sends it again or discards it. */
export interface Refused {
  judgement: Judgement;
  says: string;
}
interface Kept {
  booth?: Booth;
  waiting: Judgement[];
  refused: Refused[];
}

/** What this device keeps of one booth. */
export function keptOf(token: string): Kept {
  try {
    return { waiting: [], refused: [], ...(JSON.parse(localStorage.getItem(KEPT + token) ?? "{}") as Partial<Kept>) };
  } catch {
    return { waiting: [], refused: [] };
  }
}
export const keepOf = (token: string, kept: Kept) => localStorage.setItem(KEPT + token, JSON.stringify(kept));

/** The name of this device, made once; a link opened on it stays its own. */
export function deviceName(): string {
  const found = localStorage.getItem(`${KEPT}device`) ?? crypto.randomUUID();
  localStorage.setItem(`${KEPT}device`, found);
  return found;
}

const asked = (token: string) => ({ params: { path: { token }, header: { "X-Booth-Device": deviceName() } } });

export const sitDown = (token: string) => answer(api.GET("/api/booth/{token}", asked(token)));
export const agree = (token: string, adult: boolean) => answer(api.POST("/api/booth/{token}/consent", { ...asked(token), body: { agreed: true, adult } }));

export const goNoFurther = (token: string) => answer(api.POST("/api/booth/{token}/stop", asked(token)));
export const tableOf = (token: string) => answer(api.GET("/api/tables/{token}", asked(token)));

const SHELF = "field-tally-booth";
/** What is played or shown for a cup, kept on this device so that it is there without a network too. */
export async function cupFile(token: string, set: string, place: number): Promise<Blob> {
  const path = `/api/booth/${token}/sets/${set}/${place}`;
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
  for (const set of booth.sets.filter((one) => !one.answered))
    for (const place of set.codes.keys()) await cupFile(token, set.id, place).catch(() => undefined);
}
export async function dropFiles(token: string, set: string, cups: number): Promise<void> {
  if (!("caches" in window)) return;
  const shelf = await caches.open(SHELF);
  for (let place = 0; place < cups; place++) await shelf.delete(`/api/booth/${token}/sets/${set}/${place}`);
}

/** Send what waits, each answer by itself, in the order they were given.  True once nothing waits; what the server turns down stays here with
 * its sentence, and keeps none that comes after it. */
export async function sendWaiting(token: string): Promise<boolean> {
  for (let one = keptOf(token).waiting[0]; one; one = keptOf(token).waiting[0]) {
    let says = "";
    try {
      await answer(api.POST("/api/booth/{token}/judgements", { ...asked(token), body: { judgements: [one] } }));
    } catch (error) {
      if (!(error instanceof Declined) || error.status >= 500 || error.status === 429) return false;
      says = error.message;
    }
    const kept = keptOf(token);
    const refused = says ? [...kept.refused, { judgement: one, says }] : kept.refused;
    keepOf(token, { ...kept, waiting: kept.waiting.filter((each) => each.id !== one!.id), refused });
  }
  return true;
}

/** Let an answer that was turned down wait once more. */
export function sendAgain(token: string, id: string): void {
  const kept = keptOf(token);
  const again = kept.refused.filter((one) => one.judgement.id === id).map((one) => one.judgement);
  keepOf(token, { ...kept, waiting: [...kept.waiting, ...again], refused: kept.refused.filter((one) => one.judgement.id !== id) });
}

/** Let go of an answer that was turned down. */
export function discard(token: string, id: string): void {
  const kept = keptOf(token);
  keepOf(token, { ...kept, refused: kept.refused.filter((one) => one.judgement.id !== id) });
}
