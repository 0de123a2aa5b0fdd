/** A picture of a share: of a hundred squares as many are filled, scattered as spots are, and always the same ones first. */
const SIDE = 10;
/** Every square once, in steps that are prime to the hundred, so that neighbours are far apart in the order. */
const ORDER = Array.from({ length: SIDE * SIDE }, (_, i) => (i * 37 + 11 * Math.floor(i / SIDE)) % (SIDE * SIDE));
const SCATTERED = [...new Set(ORDER), ...Array.from({ length: SIDE * SIDE }, (_, i) => i).filter((i) => !ORDER.includes(i))];

export const filledAt = (percent: number) => SCATTERED.slice(0, Math.round(Math.max(0, Math.min(100, percent)))).map((i) => ({ key: i, x: i % SIDE, y: Math.floor(i / SIDE) }));
