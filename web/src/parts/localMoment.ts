/** The value of a field for day and hour, in the time of this device, and back. */
const two = (n: number) => String(n).padStart(2, "0");

export const fieldOf = (at: Date) =>
  `${at.getFullYear()}-${two(at.getMonth() + 1)}-${two(at.getDate())}T${two(at.getHours())}:${two(at.getMinutes())}`;

/** The moment in ISO 8601.  The minute that it is now means now: the field leaves its seconds out. */
export function momentIn(field: string): string {
  const [at, now] = [new Date(field), new Date()];
  return (Number.isNaN(at.getTime()) || fieldOf(at) === fieldOf(now) ? now : at).toISOString();
}
