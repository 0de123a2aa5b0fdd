/** Times in words that a person uses. */
import { ref } from "vue";

const MINUTE = 60_000;

/** A span of time in its largest sensible unit: "3 h", "25 min", "4 days". */
export function span(milliseconds: number): string {
  const minutes = Math.round(Math.abs(milliseconds) / MINUTE);
  if (minutes < 1) return "less than a minute";
  if (minutes < 90) return `${minutes} min`;
  const hours = Math.round(minutes / 60);
  if (hours < 36) return `${hours} h`;
  const days = Math.round(minutes / 1440);
  if (days < 21) return `${days} days`;
  const weeks = Math.round(days / 7);
  return weeks < 20 ? `${weeks} weeks` : `${Math.round(days / 30.4)} months`;
}

/** An offset from the start of exposure, in minutes, as people say it: "day 4", "2 h", "week 6". */
export function offsetWords(minutes: number): string {
  if (minutes % 10080 === 0 && minutes >= 2 * 10080) return `${minutes / 10080} weeks`;
  if (minutes % 1440 === 0 && minutes > 0) return minutes === 1440 ? "1 day" : `${minutes / 1440} days`;
  if (minutes % 60 === 0 && minutes > 0) return `${minutes / 60} h`;
  return `${minutes} min`;
}

/** Made once for each way of writing: that is what takes the time. */
const formats = new Map<string, Intl.DateTimeFormat>();
function formatted(at: string | Date, zone: string, options: Intl.DateTimeFormatOptions): string {
  const name = zone + JSON.stringify(options);
  let format = formats.get(name);
  if (!format) {
    format = new Intl.DateTimeFormat("en-GB", { timeZone: known(zone), ...options });
    formats.set(name, format);
  }
  return format.format(new Date(at));
}

/** A draft may hold a zone that does not exist; its times are then shown in UTC. */
function known(zone: string): string {
  try {
    return new Intl.DateTimeFormat("en-GB", { timeZone: zone }).resolvedOptions().timeZone;
  } catch {
    return "UTC";
  }
}

/** The zone of whoever reads. */
export const here = () => new Intl.DateTimeFormat().resolvedOptions().timeZone;

/** Whether the reader's own time is said beside the trial's. */
export const bothSaid = ref(false);

const TIME = { hour: "2-digit", minute: "2-digit", hour12: false } as const;
const WHOLE = { ...TIME, day: "numeric", month: "short" } as const;

/** Whether clocks where the reader is show something else at that moment. */
export const differs = (at: string | Date, zone: string) =>
  formatted(at, zone, WHOLE) !== formatted(at, here(), WHOLE);

/** A zone as people call it: "London". */
export const zoneName = (zone: string) =>
  (known(zone) === "UTC" ? "UTC" : (zone.split("/").at(-1) ?? zone)).replaceAll("_", " ");

/** "14:05" in the trial's zone; it names the zone where clocks of the reader show something else, and says
 * both where that was asked for. */
export function clock(at: string | Date, zone: string): string {
  const time = formatted(at, zone, TIME);
  if (!differs(at, zone)) return time;
  const named = `${time} in ${zoneName(zone)}`;
  if (!bothSaid.value) return named;
  const sameDay = day(at, zone) === day(at, here());
  return `${named} (${sameDay ? "" : `${day(at, here())}, `}${formatted(at, here(), TIME)} here)`;
}

/** How far clocks of a zone are from those here at a moment, in words; empty where they agree. */
export function zoneSays(zone: string, at: Date): string {
  if (!differs(at, zone)) return "";
  const shown = (where: string) =>
    new Date(
      `${formatted(at, where, { year: "numeric", month: "2-digit", day: "2-digit" }).split("/").reverse().join("-")}T${formatted(at, where, TIME)}:00Z`,
    ).getTime();
  const minutes = Math.round((shown(zone) - shown(here())) / MINUTE);
  const [h, min] = [Math.floor(Math.abs(minutes) / 60), Math.abs(minutes) % 60];
  const by = [h ? `${h} h` : "", min ? `${min} min` : ""].filter(Boolean).join(" ");
  return `Times are those of ${zoneName(zone)}, ${by} ${minutes > 0 ? "ahead of" : "behind"} this device.`;
}

/** "17 Nov" in the trial's zone. */
export const day = (at: string | Date, zone: string) =>
  formatted(at, zone, { day: "numeric", month: "short" });

/** "Sat 17 Nov" in the trial's zone. */
export const weekday = (at: string | Date, zone: string) =>
  formatted(at, zone, { weekday: "short", day: "numeric", month: "short" });

/** "Sat 17 Nov 2026" in the trial's zone. */
export const wholeDay = (at: string | Date, zone: string) =>
  formatted(at, zone, { weekday: "short", day: "numeric", month: "short", year: "numeric" });

/** "17 Nov, 08:10" in the trial's zone. */
export const moment = (at: string | Date, zone: string) => `${day(at, zone)}, ${clock(at, zone)}`;

/** "20:00" today, else "24 Nov, 20:00". */
export function until(at: string, now: Date, zone: string): string {
  return day(at, zone) === day(now, zone) ? clock(at, zone) : moment(at, zone);
}

export interface Stop {
  standing: string;
  opens: string | null;
  due: string | null;
  closes: string | null;
  lost: string | null;
  /** How many minutes late it was taken, early below 0; null inside its window. */
  slip: number | null;
  /** Whether it was taken before the seal, and is typed in from a notebook. */
  noted?: boolean;
}

/** How a stop stands, in a few words: "due until 20:00", "9 h late", "in 2 days", "taken". */
export function standingWords(stop: Stop, now: Date, zone: string): string {
  const since = (at: string | null) => (at ? now.getTime() - new Date(at).getTime() : 0);
  switch (stop.standing) {
    case "due":
      return `due until ${until(stop.closes ?? "", now, zone)}`;
    case "late":
      return `${span(since(stop.due))} late, can still be scored`;
    case "missed":
      return stop.noted ? "in the notebook" : "missed";
    case "skipped":
      return "skipped";
    case "taken":
      return stop.slip === null
        ? "taken"
        : `taken ${span(stop.slip * 60_000)} ${stop.slip < 0 ? "early" : "late"}`;
    default:
      return stop.opens ? `in ${span(since(stop.opens))}` : "";
  }
}

/** The same where there is little room: "now", "9 h late", "in 2 days"; nothing where it was taken in time.
 */
export function shortWords(stop: Stop, now: Date): string {
  switch (stop.standing) {
    case "due":
      return "now";
    case "taken":
      return standingWords(stop, now, "UTC").replace(/^taken ?/, "");
    case "late":
      return `${span(now.getTime() - new Date(stop.due ?? now).getTime())} late`;
    default:
      return standingWords(stop, now, "UTC");
  }
}
