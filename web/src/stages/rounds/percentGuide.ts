/** A picture of a share: of a hundred squares as many are filled, scattered as spots are, and always the same
 * ones first.
 */
import { sure } from "@/parts/sure";
const SIDE = 10;

/** All squares in an order without a pattern, the same on every device: shuffled by a small generator of its
 * own (mulberry32).
 */
function scattered(): number[] {
  let state = 1729;
  const next = () => {
    state = (state + 0x6d2b79f5) | 0;
    let t = Math.imul(state ^ (state >>> 15), 1 | state);
    t = (t + Math.imul(t ^ (t >>> 7), 61 | t)) ^ t;
    return ((t ^ (t >>> 14)) >>> 0) / 4294967296;
  };
  const order = Array.from({ length: SIDE * SIDE }, (_, i) => i);
  for (let i = order.length - 1; i > 0; i -= 1) {
    const j = Math.floor(next() * (i + 1));
    [order[i], order[j]] = [sure(order[j]), sure(order[i])];
  }
  return order;
}
const ORDER = scattered();

export const filledAt = (percent: number) =>
  ORDER.slice(0, Math.round(Math.max(0, Math.min(100, percent)))).map((i) => ({
    key: i,
    x: i % SIDE,
    y: Math.floor(i / SIDE),
  }));
