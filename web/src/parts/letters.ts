/** The letter that stands for a treatment, by its place in the plan: A to Z, then AA, AB and so on.  The core
 * gives the same; `typed.test.ts` holds both to `cases/letters.json`.
 */
export const letterOf = (place: number): string =>
  place < 0
    ? ""
    : (place < 26 ? "" : letterOf(Math.floor(place / 26) - 1)) + String.fromCharCode(65 + (place % 26));

/** The place of the treatment that a letter stands for. */
export const placeOf = (letter: string): number =>
  Array.from(letter).reduce((place, one) => (place + 1) * 26 + one.charCodeAt(0) - 65, -1);
