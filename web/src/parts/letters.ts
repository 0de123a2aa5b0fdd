/** The letter that stands for a treatment, by its place in the plan: A to Z, then AA, AB and so on.  The core
 * gives the same; `typed.test.ts` holds both to `cases/letters.json`.
 */
export const letterOf = (place: number): string =>
  place < 0
    ? ""
    : (place < 26 ? "" : letterOf(Math.floor(place / 26) - 1)) + String.fromCharCode(65 + (place % 26));
