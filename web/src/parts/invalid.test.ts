/** A field that is marked as wrong says what is wrong with it. */
import { expect, test } from "vitest";

const files = import.meta.glob<string>("../**/*.vue", { query: "?raw", import: "default", eager: true });
const TAG = /<(?:input|textarea|select)\b(?:[^>"]|"[^"]*")*>/g;

test("each field that may be invalid is described by its sentence", () => {
  const silent = Object.entries(files).flatMap(([file, text]) =>
    (text.match(TAG) ?? [])
      .filter((tag) => tag.includes("aria-invalid") && !tag.includes("aria-describedby"))
      .map((tag) => `${file}: ${tag.replace(/\s+/g, " ").slice(0, 90)}`),
  );
  expect(silent).toEqual([]);
});
