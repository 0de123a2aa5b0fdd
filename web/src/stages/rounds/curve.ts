/** The straight part of a curve while it grows, and where the curve leaves it: the rule of the verdict, which
 * `cases/curves.json` holds both to.
 *
 * The straight part begins with the first three steps that were taken and goes on as long as each next
 * response keeps to the line through
 * those before it.  The curve has left it where a response and all that follow are off it.
 */
import { sure } from "@/parts/sure";

const AWAY = 0.1;
const QUARTER = 0.25;
const FEWEST_ON = 3;
const FEWEST = 4;

export interface Line {
  slope: number;
  start: number;
}

export interface Straight extends Line {
  /** The steps between which the curve leaves its line; null: it does not, or cannot be told to. */
  leaves: [number, number] | null;
  /** Whether there are steps enough to tell. */
  told: boolean;
}

type Point = [step: number, response: number];

function lineThrough(points: Point[], throughZero: boolean): Line {
  if (throughZero)
    return {
      slope: points.reduce((sum, [x, y]) => sum + x * y, 0) / points.reduce((sum, [x]) => sum + x * x, 0),
      start: 0,
    };
  const mx = points.reduce((sum, [x]) => sum + x, 0) / points.length;
  const my = points.reduce((sum, [, y]) => sum + y, 0) / points.length;
  const over = points.reduce((sum, [x]) => sum + (x - mx) ** 2, 0);
  const slope = points.reduce((sum, [x, y]) => sum + (x - mx) * (y - my), 0) / over;
  return { slope, start: my - slope * mx };
}

/** Whether a point lies off the line through others. */
function off(on: Point[], [x, y]: Point, throughZero: boolean): boolean {
  const line = lineThrough(on, throughZero);
  const says = line.start + line.slope * x;
  const free = Math.max(1, on.length - (throughZero ? 1 : 2));
  const scatter = Math.sqrt(
    on.reduce((sum, [a, b]) => sum + (b - line.start - line.slope * a) ** 2, 0) / free,
  );
  const seen = Math.max(...on.map(([, b]) => Math.abs(b)));
  return Math.abs(y - says) > Math.max(AWAY * Math.max(Math.abs(says), QUARTER * seen), 2 * scatter);
}

/** The straight part of responses at steps, null where a step was not taken; null with fewer than two (one,
 * through the origin).
 */
export function straight(
  steps: number[],
  responses: (number | null)[],
  throughZero = false,
): Straight | null {
  const taken = responses.flatMap((y, i): Point[] => (y === null ? [] : [[sure(steps[i]), y]]));
  if (taken.length < (throughZero ? 1 : 2)) return null;
  const on = taken.slice(0, FEWEST_ON);
  let leaves: [number, number] | null = null;
  for (let at = on.length; at < taken.length; at += 1) {
    if (!off(on, sure(taken[at]), throughZero)) on.push(sure(taken[at]));
    else if (taken.slice(at).every((later) => off(on, later, throughZero))) {
      leaves = [sure(on.at(-1))[0], sure(taken[at])[0]];
      break;
    }
  }
  return {
    ...lineThrough(on, throughZero),
    leaves: taken.length >= FEWEST ? leaves : null,
    told: taken.length >= FEWEST,
  };
}
