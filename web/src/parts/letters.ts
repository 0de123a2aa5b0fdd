/** The letter that stands for a treatment, by its place in the plan. */
export const letterOf = (place: number) =>
  place < 0 ? "" : place < 26 ? String.fromCharCode(65 + place) : String(place + 1);
