/** The server's time as this device can tell it: its own clock, put right by what the server's answers say.
 */
let skew = 0;

/** Learn from an answer: the server's date, and when it was asked and answered by this device's clock (ms).
 */
export function learn(date: string | null, asked: number, answered: number): void {
  const told = date ? Date.parse(date) : NaN;
  if (!Number.isFinite(told)) return;
  // Dates are told to the second: half of one is added, and anything nearer than a few seconds is not a wrong
  // clock.
  const found = told + 500 - (asked + answered) / 2;
  skew = Math.abs(found) < 5_000 ? 0 : found;
}

export const rightNow = () => new Date(Date.now() + skew);
