/** The course of a trial: its line in time as stops at honest distances, with long waits folded. */
import { sure } from "@/parts/sure";
import type { Schemas } from "@/shell/api/client";
import { shortWords, weekday } from "@/parts/moments";

type Course = Schemas["CourseOut"];

export interface CourseStop {
  key: string;
  label: string;
  words: string;
  /** How the line up to here is drawn, and the stop on it. */
  standing: "done" | "due" | "late" | "missed" | "ahead";
  stage: boolean;
  /** Pixels from the stop before. */
  gap: number;
  folded: boolean;
  to: { name: string; params: Record<string, string> } | null;
}

export const NEAREST = 36;
export const FARTHEST = 76;

/** Distances in pixels for waits in minutes: in proportion, none closer than NEAREST, none farther than
 * FARTHEST.
 */
export function distances(waits: number[]): { gap: number; folded: boolean }[] {
  const positive = waits.filter((wait) => wait > 0);
  const shortest = positive.length ? Math.min(...positive) : 1;
  return waits.map((wait) => {
    const honest = NEAREST * (wait / shortest || 1);
    return { gap: Math.min(FARTHEST, Math.max(NEAREST, honest)), folded: honest > FARTHEST };
  });
}

const STANDING: Record<string, CourseStop["standing"]> = {
  taken: "done",
  skipped: "done",
  due: "due",
  late: "late",
  missed: "missed",
  upcoming: "ahead",
};

/** The stops of a course as this person may open them, in order. */
export function stopsOf(course: Course, now: Date): CourseStop[] {
  const params = { id: course.id };
  const sealed = course.state !== "draft";
  const started = course.started_at !== null;
  const opened = course.state === "opened";
  const stage = (key: string, label: string, words: string, done: boolean, allowed: boolean): CourseStop => ({
    key,
    label,
    words,
    standing: done ? "done" : "ahead",
    stage: true,
    gap: 46,
    folded: false,
    to: allowed ? { name: key, params } : null,
  });
  if (course.is_tasting)
    return [
      stage(
        "panels",
        "Tasting",
        opened ? "key open" : "sealed",
        sealed,
        course.may_lead || opened || course.role === "preparer",
      ),
      stage("verdict", "Verdict", opened ? "" : "key sealed", opened, opened),
      stage("share", "Share", "", opened, opened || course.may_lead),
    ];
  const spaces = distances(
    course.checkpoints.map((stop, i) => stop.offset - (course.checkpoints[i - 1]?.offset ?? 0)),
  );
  return [
    stage(
      "plan",
      "Plan",
      course.origin === "table" ? "drawn up afterwards" : sealed ? "sealed" : "draft",
      sealed,
      course.may_see_plan,
    ),
    stage("prepare", "Prepare", started ? "started" : "", started, course.may_prepare && !opened),
    ...course.checkpoints.map((stop, i) => ({
      key: `look-${stop.key}`,
      label: stop.name,
      words: started
        ? shortWords(stop, now)
        : stop.standing === "due"
          ? "now"
          : stop.due
            ? weekday(stop.due, course.zone)
            : "",
      standing: started || stop.baseline ? sure(STANDING[stop.standing]) : "ahead",
      stage: false,
      ...sure(spaces[i]),
      to: course.may_score ? { name: "round", params: { ...params, checkpoint: stop.key } } : null,
    })),
    stage(
      "verdict",
      "Verdict",
      opened ? "key open" : sealed ? "key sealed" : "",
      opened,
      sealed && (opened || course.may_open_key),
    ),
    stage("share", "Share", "", opened, opened || course.sees_readings || course.may_prepare),
  ];
}
