/** The shelf in order: what waits first, what is over last, and what was filed away apart. */
import type { Schemas } from "@/shell/api/client";

export type ShelfTrial = Schemas["ShelfTrial"];
export type ShelfOrder = "due" | "newest" | "name";

export interface ShelfGroup {
  key: "waiting" | "running" | "planned" | "concluded" | "filed";
  name: string;
  trials: ShelfTrial[];
}

const NAMES: Record<ShelfGroup["key"], string> = {
  waiting: "Waits for you",
  running: "Running",
  planned: "Being planned",
  concluded: "Concluded",
  filed: "Filed away",
};

/** 0 due, 1 late but still possible, 2 nothing to be done now. */
export function urgency(trial: ShelfTrial): number {
  if (trial.state !== "running" || !trial.may_score) return 2;
  if (trial.checkpoints.some((stop) => stop.standing === "due")) return 0;
  return trial.checkpoints.some((stop) => stop.standing === "late") ? 1 : 2;
}

function groupOf(trial: ShelfTrial): ShelfGroup["key"] {
  if (trial.filed) return "filed";
  if (urgency(trial) < 2) return "waiting";
  if (trial.state === "opened") return "concluded";
  return trial.state === "running" ? "running" : "planned";
}

const plain = (text: string) => text.toLocaleLowerCase();

/** The moment of the next look that is not over, or far away. */
const next = (trial: ShelfTrial) =>
  trial.checkpoints.find((stop) => ["due", "late", "upcoming"].includes(stop.standing))?.due ?? "9999";

const ORDERS: Record<ShelfOrder, (a: ShelfTrial, b: ShelfTrial) => number> = {
  due: (a, b) =>
    urgency(a) - urgency(b) || next(a).localeCompare(next(b)) || b.created_at.localeCompare(a.created_at),
  newest: (a, b) => b.created_at.localeCompare(a.created_at),
  name: (a, b) => a.title.localeCompare(b.title),
};

/** The groups that hold something, each in `order`; only trials with all words of `wanted` in title or
 * question. */
export function shelved(trials: readonly ShelfTrial[], wanted: string, order: ShelfOrder): ShelfGroup[] {
  const words = plain(wanted).split(/\s+/).filter(Boolean);
  const kept = trials.filter((one) =>
    words.every((word) => plain(`${one.title} ${one.question}`).includes(word)),
  );
  const keys = Object.keys(NAMES) as ShelfGroup["key"][];
  return keys
    .map((key) => ({
      key,
      name: NAMES[key],
      trials: kept.filter((one) => groupOf(one) === key).sort(ORDERS[order]),
    }))
    .filter((group) => group.trials.length > 0);
}
