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
