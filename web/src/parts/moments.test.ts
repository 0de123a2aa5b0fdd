import { describe, expect, it } from "vitest";

import {
  bothSaid,
  clock,
  offsetWords,
  shortWords,
  span,
  standingWords,
  until,
  zoneSays,
  type Stop,
} from "./moments";

const now = new Date("2026-03-28T20:00:00Z");
const stop = (standing: string, more: Partial<Stop> = {}): Stop => ({
  standing,
  opens: "2026-03-28T18:00:00Z",
  due: "2026-03-28T19:00:00Z",
  closes: "2026-03-28T21:00:00Z",
  lost: null,
  slip: null,
  ...more,
});

it.each([
  [20_000, "less than a minute"],
  [25 * 60_000, "25 min"],
  [3 * 3600_000, "3 h"],
  [-9 * 3600_000, "9 h"],
  [4 * 86400_000, "4 days"],
  [30 * 86400_000, "4 weeks"],
])("%d ms is %s", (milliseconds, words) => expect(span(milliseconds)).toBe(words));

it.each([
  [90, "90 min"],
  [360, "6 h"],
  [1440, "1 day"],
  [10080, "7 days"],
  [20160, "2 weeks"],
])("%d minutes after the start is %s", (minutes, words) => expect(offsetWords(minutes)).toBe(words));

describe("how a stop stands", () => {
  it("is told in the trial's own zone", () => {
    expect(standingWords(stop("due"), now, "Europe/London")).toBe("due until 21:00");
    expect(standingWords(stop("due"), now, "Asia/Tokyo")).toBe("due until 06:00 in Tokyo");
    expect(until("2026-03-30T06:00:00Z", now, "Europe/London")).toBe("30 Mar, 07:00 in London");
    expect(clock("2026-03-29T12:00:00Z", "Europe/London")).toBe("13:00 in London");
  });
  it("says how late something was taken", () => {
    expect(standingWords(stop("taken", { slip: 9 * 60 }), now, "UTC")).toBe("taken 9 h late");
    expect(standingWords(stop("taken", { slip: null }), now, "UTC")).toBe("taken");
    expect(shortWords(stop("taken", { slip: 9 * 60 }), now)).toBe("9 h late");
    expect(standingWords(stop("taken", { slip: -10 * 60 }), now, "UTC")).toBe("taken 10 h early");
    expect(shortWords(stop("due"), now)).toBe("now");
    expect(standingWords(stop("upcoming", { opens: "2026-03-29T20:00:00Z" }), now, "UTC")).toBe("in 24 h");
  });
});

describe("a reader whose clocks show something else", () => {
  it("is told the zone, and both times when they ask", () => {
    expect(zoneSays("Asia/Kolkata", now)).toBe(
      "Times are those of Kolkata, 5 h 30 min ahead of this device.",
    );
    expect(zoneSays("America/New_York", now)).toBe("Times are those of New York, 4 h behind this device.");
    expect(zoneSays("Europe/London", now)).toBe("");
    bothSaid.value = true;
    expect(clock(now, "Asia/Tokyo")).toBe("05:00 in Tokyo (28 Mar, 20:00 here)");
    expect(clock(now, "Europe/London")).toBe("20:00");
    bothSaid.value = false;
  });
});
