/** Photos in the tray, as they are laid out: those that are sure by look, the others by like moments. */
import type { Schemas } from "@/shell/api/client";

export type Dropped = Schemas["DealtOut"];
export const BOARD = "-";

/** A group of photos, and when the first and the last of them were taken. */
export interface Group {
  key: string;
  photos: Dropped[];
  from?: string;
  to?: string;
}

/** What has to be dealt by hand, in groups of like moments. */
export function groupsOf(photos: Dropped[]): Group[] {
  const found = new Map<number, Dropped[]>();
  for (const one of photos)
    if (one.read && !one.sure && !one.clock) found.set(one.group, [...(found.get(one.group) ?? []), one]);
  return [...found].map(([group, own]) => ({
    key: String(group),
    photos: own,
    from: own[0]?.taken_at ?? undefined,
    to: own.at(-1)?.taken_at ?? undefined,
  }));
}

/** What is sure, by look in the order of the trial. */
export function byLook(photos: Dropped[], looks: { key: string }[]): Group[] {
  return looks
    .map((look) => ({
      key: look.key,
      photos: photos.filter((one) => one.sure && one.checkpoint === look.key),
    }))
    .filter((one) => one.photos.length);
}

/** How far a camera's clock is off, in words: "2 days 3 h behind". */
export function shiftWords(seconds: number): string {
  const minutes = Math.round(Math.abs(seconds) / 60);
  if (!minutes) return "right to the minute";
  const parts: [number, string, string][] = [
    [Math.floor(minutes / 1440), "day", "days"],
    [Math.floor((minutes % 1440) / 60), "h", "h"],
    [minutes % 60, "min", "min"],
  ];
  const told = parts
    .filter(([many]) => many)
    .map(([many, one, more]) => `${many} ${many === 1 ? one : more}`);
  return `${told.slice(0, 2).join(" ")} ${seconds > 0 ? "behind" : "ahead"}`;
}

/** What one of several photos may be asked about, each sentence once. */
export const asked = (photos: Dropped[]): string[] => [
  ...new Set(photos.map((one) => one.says).filter(Boolean)),
];

/** Whether a file may hold a photo: phones give some of theirs no type. */
export const likePhoto = (file: { name: string; type: string }): boolean =>
  file.type.startsWith("image/") || (!file.type && /\.(jpe?g|png|webp)$/i.test(file.name));
