import { expect, it } from "vitest";

import { inWords } from "./agenda";

it("says what waits and how long it takes", () => {
  const due = { standing: "due", minutes: 4 };
  const late = { standing: "late", minutes: 1 };
  expect(inWords([])).toBe("Nothing is due right now.");
  expect(inWords([late])).toBe("One round waits, late: 1 minute in all.");
  expect(inWords([due, late, due])).toBe("3 rounds wait, 1 of them late: 9 minutes in all.");
  expect(inWords([late, late])).toBe("2 rounds wait, all late: 2 minutes in all.");
  expect(inWords([{ standing: "due", minutes: 100 }])).toBe("One round waits: 1.5 hours in all.");
});
