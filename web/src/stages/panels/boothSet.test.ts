import { sure } from "@/parts/sure";
import { mount } from "@vue/test-utils";
import { expect, it } from "vitest";

import BoothSet from "./BoothSet.vue";
import type { Booth, Judgement } from "./booth";

const booth = (method: string, more: Partial<Booth> = {}): Booth => ({
  number: 1,
  method,
  question: "Which?",
  state: "open",
  consented: true,
  adults: false,
  allergens: "",
  dose: "",
  words_to_say: "",
  pause: 0,
  confidence: false,
  preference: false,
  each_once: true,
  material: "cups",
  stopped: false,
  break_off: "",
  attributes: [],
  chips: [],
  free_words: false,
  names: [],
  sets: [],
  shows_a: false,
  due: null,
  until: null,
  card: false,
  ...more,
});
function sat(method: string, codes: string[], more: Partial<Booth> = {}) {
  const seat = mount(BoothSet, {
    props: {
      booth: booth(method, more),
      set: { id: "s", session: 0, codes, answered: false, stimulus: 0, over: "" },
    },
  });
  const button = (name: string) =>
    sure(seat.findAll("button").find((one) => one.text() === name || one.attributes("aria-label") === name));
  const lock = () => button("Give my answer: it is locked then");
  return {
    seat,
    button,
    lock,
    given: () => (seat.emitted("lock") as [Judgement][] | undefined)?.map(([one]) => one) ?? [],
  };
}

it("locks the cup that was tapped last, and nothing before one was", async () => {
  const { button, lock, given } = sat("triangle", ["412", "538", "207"]);
  expect(lock().attributes("disabled")).toBeDefined();
  await button("Cup 412").trigger("click");
  await button("Cup 207").trigger("click");
  await lock().trigger("click");
  expect(given()[0]).toMatchObject({ serving: "s", answer: [2], preference: null, confidence: null });
});

it("never offers the reference of a duo-trio as an answer", () => {
  const { seat } = sat("duo-trio", ["R", "538", "207"]);
  expect(seat.text()).toContain("Reference");
  expect(seat.findAll("button[aria-label^='Cup']").map((one) => one.attributes("aria-label"))).toEqual([
    "Cup 538",
    "Cup 207",
  ]);
});

it("asks two of a tetrad, and an order of all for a ranking", async () => {
  const four = sat("tetrad", ["412", "538", "207", "964"]);
  await four.button("Cup 412").trigger("click");
  expect(four.lock().attributes("disabled")).toBeDefined();
  await four.button("Cup 964").trigger("click");
  await four.lock().trigger("click");
  expect(sure(four.given()[0]).answer).toEqual([0, 3]);
  const rank = sat("ranking", ["412", "538", "207"]);
  for (const code of ["207", "412", "538"]) await rank.button(`Cup ${code}`).trigger("click");
  await rank.lock().trigger("click");
  expect(sure(rank.given()[0]).answer).toEqual([2, 0, 1]);
});

it("counts yes as one, and neither as minus one", async () => {
  const yes = sat("a-not-a", ["412"]);
  await yes.button("It is A").trigger("click");
  await yes.lock().trigger("click");
  expect(sure(yes.given()[0]).answer).toEqual([1]);
  const liked = sat("preference", ["412", "538"]);
  await liked.button("Neither is better").trigger("click");
  await liked.lock().trigger("click");
  expect(sure(liked.given()[0]).answer).toEqual([-1]);
});

it("waits for all that is asked besides", async () => {
  const { seat, button, lock, given } = sat("triangle", ["412", "538", "207"], {
    preference: true,
    confidence: true,
    chips: ["crisp"],
  });
  await button("Cup 538").trigger("click");
  expect(lock().attributes("disabled")).toBeDefined();
  await seat.find("input[type=radio][value='-1']").setValue();
  expect(lock().attributes("disabled")).toBeDefined();
  await sure(sure(seat.findAll("fieldset")[1]).findAll("input")[3]).setValue();
  await seat.find("input[type=checkbox]").setValue(true);
  await lock().trigger("click");
  expect(given()[0]).toMatchObject({ answer: [1], preference: -1, confidence: 4, chips: ["crisp"] });
});

it("asks a grade of every cup before it locks, and none of the reference", async () => {
  const { seat, lock, given } = sat("grading", ["412", "538"], {
    attributes: [
      { name: "Crunch", low: "none", high: "much", steps: 10 },
      { name: "Fizz", low: "none", high: "much", steps: 100 },
    ],
  });
  expect(lock().attributes("disabled")).toBeDefined();
  const pick = (name: string, grade: number) =>
    sure(seat.findAll("fieldset").find((one) => one.find("legend").text() === name))
      .find(`input[value='${grade}']`)
      .setValue();
  await pick("Crunch of 412", 7);
  await pick("Crunch of 538", 0);
  const [first, second] = seat.findAll("input.field");
  await sure(first).setValue("80");
  await sure(second).setValue("101");
  expect(lock().attributes("disabled")).toBeDefined();
  await sure(second).setValue("100");
  await lock().trigger("click");
  expect(given()[0]).toMatchObject({
    answer: [],
    grades: [
      [7, 0],
      [80, 100],
    ],
  });
  const duo = sat("duo-trio", ["R", "538", "207"], {
    attributes: [{ name: "Crunch", low: "none", high: "much", steps: 4 }],
  });
  await duo.button("Cup 538").trigger("click");
  expect(duo.seat.findAll("legend").map((one) => one.text())).toEqual(["Crunch of 538", "Crunch of 207"]);
});

it("calls the third of A, B and X by no answer", async () => {
  const { seat, button, lock, given } = sat("abx", ["412", "538", "207"]);
  expect(seat.findAll("button[aria-label^='Cup']")).toHaveLength(2);
  await button("Cup 538").trigger("click");
  await lock().trigger("click");
  expect(sure(given()[0]).answer).toEqual([1]);
});
