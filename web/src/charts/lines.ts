/** What charts of lines share: a line style for each hue, and labels at their ends that do not lie on each
 * other.
 */
export const DASHES = ["", "9 4", "2 4", "12 3 2 3", "5 5", "1 3", "14 4", "8 3 2 3 2 3"];

/** Labels from the top down, each at its ``y`` or, where the one above would touch it, ``gap`` below that. */
export function pushedApart<One extends { y: number }>(labels: readonly One[], gap: number): One[] {
  let last = -Infinity;
  return [...labels]
    .sort((a, b) => a.y - b.y)
    .map((one) => {
      last = Math.max(one.y, last + gap);
      return { ...one, y: last };
    });
}
