/** Dots on a line: each value at its place, those that would overlap stacked. */
export interface Dot<T> {
  x: number;
  level: number;
  of: T;
}

/** Things at their true pixel positions `x`, `size` pixels wide each, on the lowest level where none lies
 * over
 * another.
 */
export function stacked<T>(things: readonly T[], x: (thing: T) => number, size: number): Dot<T>[] {
  const ends: number[] = [];
  return [...things]
    .sort((a, b) => x(a) - x(b))
    .map((of) => {
      const free = ends.findIndex((end) => end <= x(of));
      const level = free < 0 ? ends.length : free;
      ends[level] = x(of) + size;
      return { x: x(of), level, of };
    });
}

/** How many things lie within each `size` pixels: where they lie on average, how many count, and how many
 * of them are set `aside`.
 */
export interface Column {
  x: number;
  many: number;
  aside: number;
}

export function columned<T>(
  things: readonly T[],
  x: (thing: T) => number,
  size: number,
  aside: (thing: T) => boolean,
): Column[] {
  const found = new Map<number, { sum: number; all: number; aside: number }>();
  for (const thing of things) {
    const at = Math.round(x(thing) / size);
    const own = found.get(at) ?? { sum: 0, all: 0, aside: 0 };
    found.set(at, {
      sum: own.sum + x(thing),
      all: own.all + 1,
      aside: own.aside + (aside(thing) ? 1 : 0),
    });
  }
  return [...found.values()].map((own) => ({
    x: own.sum / own.all,
    many: own.all - own.aside,
    aside: own.aside,
  }));
}
