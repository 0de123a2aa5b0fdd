/** Two people at one plan: what both changed since the version they share, put together.
 *
 * What only one of them changed is taken over.  Where both changed the same thing, theirs stands (it is kept
 * already) and
 * mine comes back as a clash, to be put back or let go: nothing is lost, nothing is overwritten silently. */

export interface Clash {
  /** Dotted path to the thing both changed. */
  at: string;
  mine: unknown;
  theirs: unknown;
}

type Keyed = { key: string };
const same = (a: unknown, b: unknown) => JSON.stringify(a) === JSON.stringify(b);
const isKeyed = (value: unknown): value is Keyed[] =>
  Array.isArray(value) &&
  value.length > 0 &&
  value.every((one) => typeof one === "object" && one !== null && "key" in one);
const isRecord = (value: unknown): value is Record<string, unknown> =>
  typeof value === "object" && value !== null && !Array.isArray(value);
const below = (at: string, part: string | number) => (at ? `${at}.${part}` : String(part));

export function merged<T>(base: T, mine: T, theirs: T): { plan: T; clashes: Clash[] } {
  const clashes: Clash[] = [];
  return { plan: one(base, mine, theirs, "", clashes) as T, clashes };
}

function one(base: unknown, mine: unknown, theirs: unknown, at: string, clashes: Clash[]): unknown {
  if (same(mine, theirs) || same(base, mine)) return theirs;
  if (same(base, theirs)) return mine;
  const lists = [base, mine, theirs];
  if (
    lists.every((list) => Array.isArray(list)) &&
    lists.some(isKeyed) &&
    lists.every((list) => isKeyed(list) || (list as unknown[]).length === 0)
  )
    return entries(base as Keyed[], mine as Keyed[], theirs as Keyed[], at, clashes);
  if (
    isRecord(base) &&
    isRecord(mine) &&
    isRecord(theirs) &&
    mine.kind === theirs.kind &&
    base.kind === mine.kind
  )
    return Object.fromEntries(
      [...new Set([...Object.keys(theirs), ...Object.keys(mine)])].map((part) => [
        part,
        one(base[part], mine[part], theirs[part], below(at, part), clashes),
      ]),
    );
  clashes.push({ at, mine, theirs });
  return theirs;
}

/** Entries known by their key, in their order; one taken out by one side stays out unless the other side
 * changed it.
 */
function entries(base: Keyed[], mine: Keyed[], theirs: Keyed[], at: string, clashes: Clash[]): Keyed[] {
  const find = (list: Keyed[], key: string) => list.find((entry) => entry.key === key);
  const kept: Keyed[] = [];
  for (const their of theirs) {
    const was = find(base, their.key);
    const my = find(mine, their.key);
    if (my) kept.push(one(was ?? {}, my, their, below(at, kept.length), clashes) as Keyed);
    else if (!was || !same(was, their)) kept.push(their);
  }
  for (const my of mine) {
    if (find(theirs, my.key)) continue;
    const was = find(base, my.key);
    if (!was || !same(was, my)) kept.push(my);
  }
  return kept;
}

/** The parts of a plan (its first level) in which two versions differ. */
export function differing(a: Record<string, unknown>, b: Record<string, unknown>): string[] {
  return [...new Set([...Object.keys(a), ...Object.keys(b)])].filter((part) => !same(a[part], b[part]));
}
