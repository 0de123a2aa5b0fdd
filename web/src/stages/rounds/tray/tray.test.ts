import { expect, it } from "vitest";

import { asked, byLook, groupsOf, likePhoto, shiftWords, type Dropped } from "./tray";

const photo = (more: Partial<Dropped>): Dropped => ({
  id: crypto.randomUUID(),
  code: "",
  checkpoint: "",
  sure: false,
  says: "No tag could be read in it.",
  taken_at: "2026-05-04T09:00:00Z",
  clock: false,
  read: true,
  group: 0,
  may_be: [],
  may_look: [],
  width: 4,
  height: 3,
  ...more,
});

it("lays out what is asked by like moments, without what is sure, shows a clock or is not read", () => {
  const late = photo({ group: 1, taken_at: "2026-05-04T10:00:00Z" });
  const found = groupsOf([
    photo({}),
    photo({ taken_at: "2026-05-04T09:02:00Z" }),
    photo({ sure: true }),
    photo({ clock: true }),
    photo({ read: false }),
    late,
  ]);
  expect(found.map((one) => one.photos.length)).toEqual([2, 1]);
  expect(found[0]).toMatchObject({ from: "2026-05-04T09:00:00Z", to: "2026-05-04T09:02:00Z" });
});

it("lays out what is sure by look, in the order of the trial", () => {
  const photos = [
    photo({ sure: true, checkpoint: "c-2" }),
    photo({ sure: true, checkpoint: "c-1" }),
    photo({ checkpoint: "c-1" }),
  ];
  const found = byLook(photos, [{ key: "c-1" }, { key: "c-2" }, { key: "c-3" }]);
  expect(found.map((one) => [one.key, one.photos.length])).toEqual([
    ["c-1", 1],
    ["c-2", 1],
  ]);
});

it.each([
  [10, "right to the minute"],
  [3600, "1 h behind"],
  [-5400, "1 h 30 min ahead"],
  [2 * 86400 + 3 * 3600 + 60, "2 days 3 h behind"],
])("tells how far a clock is off: %s", (seconds, told) => {
  expect(shiftWords(seconds)).toBe(told);
});

it("asks each thing once, and knows a photo without a type", () => {
  expect(asked([photo({}), photo({}), photo({ says: "" })])).toEqual(["No tag could be read in it."]);
  expect(likePhoto({ name: "IMG_1.JPG", type: "" })).toBe(true);
  expect(likePhoto({ name: "notes.txt", type: "text/plain" })).toBe(false);
});
