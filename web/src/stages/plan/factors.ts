/** The grid of all combinations of factors: the last factor across, all others down. */
import type { Plan } from "./usePlan";

export interface Cell {
  levels: Record<string, string>;
  name: string;
  /** The key of the treatment that has these levels, if any. */
  treatment: string | null;
}
export interface Combinations {
  down: string;
  columns: { key: string; name: string }[];
  rows: { name: string; cells: Cell[] }[];
}
export const MOST_CELLS = 400;

export function cellsOf(plan: Pick<Plan, "factors" | "treatments">): Combinations {
  const factors = plan.factors.filter((one) => one.levels.length);
  const count = factors.reduce((product, one) => product * one.levels.length, factors.length ? 1 : 0);
  const across = factors.at(-1);
  if (!across || count > MOST_CELLS) return { down: "", columns: [], rows: [] };
  const others = factors.slice(0, -1);
  let combined: { levels: Record<string, string>; names: string[] }[] = [{ levels: {}, names: [] }];
  for (const one of others)
    combined = combined.flatMap((so) =>
      one.levels.map((step) => ({
        levels: { ...so.levels, [one.key]: step.key },
        names: [...so.names, step.name.trim()],
      })),
    );
  const has = (levels: Record<string, string>) =>
    plan.treatments.find((one) => factors.every((by) => one.levels[by.key] === levels[by.key]))?.key ?? null;
  return {
    down: others.map((one) => one.name).join(", "),
    columns: across.levels,
    rows: combined.map(({ levels, names }) => ({
      name: names.join(", ") || across.name,
      cells: across.levels.map((step) => {
        const corner = { ...levels, [across.key]: step.key };
        return { levels: corner, name: [...names, step.name.trim()].join(", "), treatment: has(corner) };
      }),
    })),
  };
}

/** Change a level's name, and with it the names of treatments that were called by their levels. */
export function renamed(plan: Pick<Plan, "factors" | "treatments">, change: () => void): void {
  const names = () =>
    new Map(
      cellsOf(plan).rows.flatMap((row) =>
        row.cells.flatMap((cell) => (cell.treatment ? [[cell.treatment, cell.name] as const] : [])),
      ),
    );
  const before = names();
  change();
  const after = names();
  for (const one of plan.treatments)
    if (one.name === before.get(one.key)) one.name = after.get(one.key) ?? one.name;
}
