/** A curve while it grows: the straight line of its beginning, and the step at which it leaves that. */

/** So far from the line, as a share of what the line says, a point has left it. */
export const LEAVES_BEYOND = 0.1;
const FEWEST = 3;

export interface Line {
  slope: number;
  start: number;
}

/** Least squares through points; null where they lie at one place. */
export function lineThrough(points: [number, number][]): Line | null {
  const n = points.length;
  const mx = points.reduce((sum, [x]) => sum + x, 0) / n;
  const my = points.reduce((sum, [, y]) => sum + y, 0) / n;
  const over = points.reduce((sum, [x]) => sum + (x - mx) ** 2, 0);
  if (n < 2 || !over) return null;
  const slope = points.reduce((sum, [x, y]) => sum + (x - mx) * (y - my), 0) / over;
  return { slope, start: my - slope * mx };
}

/** The index of the first point that leaves the line through those before it (three at least) by more than a tenth; -1: none does. */
export function leavesAt(steps: number[], responses: (number | null)[]): number {
  const points: [number, number][] = [];
  for (const [i, y] of responses.entries()) {
    if (y === null) break;
    if (points.length >= FEWEST) {
      const line = lineThrough(points);
      const told = line ? line.start + line.slope * steps[i]! : y;
      const range = Math.max(...points.map(([, value]) => Math.abs(value)), 1e-12);
      if (Math.abs(y - told) > LEAVES_BEYOND * Math.max(Math.abs(told), 0.25 * range)) return i;
    }
    points.push([steps[i]!, y]);
  }
  return -1;
}
