/** What waits, in one sentence that can be read out. */
interface Waits {
  standing: string;
  minutes: number;
}

export function inWords(waiting: Waits[]): string {
  if (!waiting.length) return "Nothing is due right now.";
  const late = waiting.filter((one) => one.standing === "late").length;
  const minutes = waiting.reduce((sum, one) => sum + one.minutes, 0);
  const count = waiting.length === 1 ? "One round waits" : `${waiting.length} rounds wait`;
  const lateness =
    late === 0
      ? ""
      : waiting.length === 1
        ? ", late"
        : late === waiting.length
          ? ", all late"
          : `, ${late} of them late`;
  return `${count}${lateness}: ${minutes < 90 ? `${minutes} minute${minutes === 1 ? "" : "s"}` : `${Math.round(minutes / 30) / 2} hours`} in all.`;
}
