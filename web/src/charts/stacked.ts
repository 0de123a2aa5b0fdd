/** Dots on a line: each value at its place, those that would overlap stacked. */
export interface Dot<T> {
  x: number;
  level: number;
  of: T;
}

/** Stack things at pixel positions `x`, `size` pixels wide each; level 0 is the lowest. */
export function stacked<T>(things: readonly T[], x: (thing: T) => number, size: number): Dot<T>[] {
  const columns = new Map<number, number>();
  return [...things]
    .sort((a, b) => x(a) - x(b))
    .map((of) => {
      const column = Math.round(x(of) / size);
      const level = columns.get(column) ?? 0;
      columns.set(column, level + 1);
      return { x: column * size, level, of };
    });
}
