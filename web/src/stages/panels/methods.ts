/** The tests of a panel in the words of its host, and a plan to begin with. */
import type { Schemas } from "@/shell/api/client";

export type PanelPlan = Schemas["PanelPlan"];
export interface MethodWords {
  key: PanelPlan["method"];
  name: string;
  asks: string;
  says: string;
}
export const METHODS: MethodWords[] = [
  {
    key: "triangle",
    name: "Triangle",
    asks: "Is there a difference?",
    says: "Three cups, two alike: which is the odd one? Chance is right 1 time in 3.",
  },
  {
    key: "tetrad",
    name: "Tetrad",
    asks: "Is there a difference?",
    says: "Four cups, two and two: sort the pairs. Finds the same with fewer people than a triangle.",
  },
  {
    key: "duo-trio",
    name: "Duo-trio",
    asks: "Is there a difference?",
    says: "A reference and two cups: which is like it? For tasters who know the reference well.",
  },
  {
    key: "abx",
    name: "A, B and X",
    asks: "Is there a difference?",
    says: "Two that are known and X: which is X? The plain way for sounds and pictures.",
  },
  {
    key: "same-different",
    name: "Same or different",
    asks: "Is there a difference?",
    says: "Two cups: the same, or not? Where tasting many is too much.",
  },
  {
    key: "a-not-a",
    name: "A or not A",
    asks: "Is there a difference?",
    says: "One cup at a time against one that is known.",
  },
  {
    key: "2-afc",
    name: "Pair, which is more",
    asks: "Which is more …?",
    says: "Two cups: which is crunchier? You must say more what.",
  },
  {
    key: "3-afc",
    name: "Three, which is more",
    asks: "Which is more …?",
    says: "Three cups, one of them stronger: which?",
  },
  {
    key: "preference",
    name: "Preference",
    asks: "Which is liked?",
    says: "Two or more: which is liked best?",
  },
  {
    key: "naming",
    name: "Naming",
    asks: "Which is which?",
    says: "All of them, and their names: who can tell?",
  },
  { key: "ranking", name: "Ranking", asks: "How do they rank?", says: "All of them, put in order." },
  {
    key: "grading",
    name: "Grading",
    asks: "How much of it is in each?",
    says: "Each one graded for what you name: crunch, sourness.",
  },
];

export const freshPanel = (title: string): PanelPlan => ({
  title,
  method: "triangle",
  things: [],
  attribute: "",
  school: "difference",
  alpha: 0.05,
  limit: 0.3,
  noticing: 0.4,
  d: null,
  wanted: 0.8,
  assessors: 24,
  sessions: 1,
  sets: 1,
  each_once: true,
  confidence: false,
  preference: false,
  no_preference: "drop",
  chips: [],
  free_words: true,
  pause: 60,
  amount: 20,
  amount_unit: "mL",
  allergens: "",
  dose: "",
  adults: false,
  words_to_say: "",
  attributes: [],
  material: "cups",
  own_samples: false,
  looks: 1,
  break_off: "",
  stimuli: [],
  on: null,
  window: 0,
  cards: false,
});
