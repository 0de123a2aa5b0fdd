/** What practice tells, laid out for a picture. */
import type { Schemas } from "@/shell/api/client";

type SetTold = Schemas["SetTold"];
export interface Bar {
  number: number;
  x: number;
  top: number;
  height: number;
  off: number;
  good: boolean;
}

/** Bars of how far off each set was, newest at the right, and where the limit lies; in a picture of this
 * width
 * and height.
 */
export function bars(
  sets: readonly SetTold[],
  limit: number,
  width: number,
  height: number,
): { bars: Bar[]; limit: number; wide: number } {
  const most = Math.max(limit * 1.5, ...sets.map((one) => one.off)) || 1;
  const room = width / Math.max(sets.length, 6);
  const wide = room * 0.62;
  return {
    wide,
    limit: height - (limit / most) * height,
    bars: sets.map((one, i) => ({
      number: one.number,
      x: i * room + (room - wide) / 2,
      height: (one.off / most) * height,
      top: height - (one.off / most) * height,
      off: one.off,
      good: one.off <= limit,
    })),
  };
}
