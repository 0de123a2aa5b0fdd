import { beforeEach, expect, it } from "vitest";

import { areChanged, changeKey, isAlone, keyOf, keysAsFirst, keysOff, shortcuts } from "./shortcuts";

const undo = { keys: "u", does: "undo the last score" };
const find = { keys: "/", does: "find something" };
beforeEach(() => {
  shortcuts.splice(0, shortcuts.length, undo, find);
  keysAsFirst();
  keysOff.value = false;
});
const pressed = (target: EventTarget, more: KeyboardEventInit = {}) => {
  const event = new KeyboardEvent("keydown", { key: "u", ...more });
  Object.defineProperty(event, "target", { value: target });
  return event;
};

it("gives a shortcut another key, and keeps it on the device", () => {
  expect(changeKey(undo, "b")).toBe("");
  expect(keyOf(undo)).toBe("b");
  expect(areChanged.value).toBe(true);
  expect(JSON.parse(localStorage.getItem("field-tally/keys") ?? "{}")).toEqual({
    off: false,
    keys: { "undo the last score": "b" },
  });
});

it.each([
  ["5", "Digits give grades"],
  ["Tab", "needed for getting about"],
  ["/", "is taken: find something"],
])("refuses %s with a sentence, and leaves the key as it was", (key, says) => {
  expect(changeKey(undo, key)).toContain(says);
  expect(keyOf(undo)).toBe("u");
});

it("does nothing where somebody types, holds another key, has a dialog open or switched it off", () => {
  expect(isAlone(pressed(document.body))).toBe(true);
  expect(isAlone(pressed(document.createElement("input")))).toBe(false);
  expect(isAlone(pressed(document.body, { ctrlKey: true }))).toBe(false);
  const dialog = document.createElement("div");
  dialog.setAttribute("role", "dialog");
  const button = dialog.appendChild(document.createElement("button"));
  expect(isAlone(pressed(button))).toBe(false);
  keysOff.value = true;
  expect(isAlone(pressed(document.body))).toBe(false);
});
