/** New entries of a plan, as they begin. */
import type { Plan } from "./usePlan";

export type Treatment = Plan["treatments"][number];
export type Outcome = Plan["outcomes"][number];
export type Checkpoint = Plan["checkpoints"][number];
export type Dose = Treatment["doses"][number];
export type Factor = Plan["factors"][number];
export type Group = Plan["groups"][number];
export type Some = Outcome["only"];
export type Begun = NonNullable<Plan["begun"]>;
export type Scale = Outcome["scale"];

export const newKey = () => crypto.randomUUID().slice(0, 8);

export const treatment = (known: Partial<Treatment> = {}): Treatment => ({
  key: newKey(),
  name: "",
  kind: "treatment",
  samples: 4,
  note: "",
  levels: {},
  package: false,
  changes: "",
  cost: null,
  doses: [],
  vessel: "",
  group: "",
  holds: null,
  other_substance: false,
  ...known,
});

export const agreement = (): NonNullable<Plan["agreement"]> => ({ unit: "", limit: null, alarm: null });

export const product = (known: Partial<Plan["products"][number]> = {}): Plan["products"][number] => ({
  key: newKey(),
  name: "",
  active: "",
  share: "",
  pack: "",
  price: null,
  keeps_open: null,
  ...known,
});

export const dose = (of: string): Dose => ({
  key: newKey(),
  product: of,
  way: "label",
  rate: "",
  tool: "",
  stock: false,
  times: 1,
  vessel: "",
  water: "",
  minutes: null,
  rinse: "",
  check: "",
});

export const begun = (): Begun => ({ on: "", placed: "hand", how: "", taken: [], samples: [] });

export const block = () => ({ key: newKey(), name: "", note: "", starts: 0, added: null });

export const some = (): Some => ({ treatments: [], groups: [], blocks: [], kinds: [] });
export const group = (): Group => ({ key: newKey(), name: "", hazards: "", cleaning: "" });

export const checkpoint = (known: Partial<Checkpoint> = {}): Checkpoint => ({
  key: newKey(),
  name: "",
  offset: 1440,
  before: 0,
  after: 0,
  clock: null,
  cycle: null,
  baseline: false,
  stage: "",
  unplanned: false,
  only: some(),
  ...known,
});

export const outcome = (known: Partial<Outcome> = {}): Outcome => ({
  key: newKey(),
  name: "",
  scale: SCALES.grade(),
  better: "more",
  target: null,
  margin: null,
  margin_unit: "",
  expected: null,
  spread: null,
  between: null,
  weight: 1,
  primary: false,
  group: "",
  summary: { kind: "value", checkpoint: null, baseline: null, threshold: null },
  retest: "median",
  wait: null,
  wait_says: "",
  practised: false,
  checkpoints: [],
  proof: { blanks: [], known: null, known_readings: [], repeats: [] },
  only: some(),
  done: null,
  rare: null,
  ...known,
});

export const factor = (): Factor => ({ key: newKey(), name: "", levels: [level(), level()], hard: false });
export const level = () => ({ key: newKey(), name: "" });

export const grades = (anchors: string[], halves = false) =>
  anchors.flatMap((anchor, i) => [
    { value: i, label: String(i), anchor },
    ...(halves && i < anchors.length - 1 ? [{ value: i + 0.5, label: `${i || ""}½`, anchor: "" }] : []),
  ]);

/** A scale of each kind, to begin with. */
export const SCALES: { [K in Scale["kind"]]: () => Extract<Scale, { kind: K }> } = {
  grade: () => ({
    kind: "grade",
    levels: grades(["nothing left", "poor", "middling", "good", "very good", "as new"]),
  }),
  measurement: () => ({ kind: "measurement", unit: "", resolution: null, low: null, high: null }),
  count: () => ({ kind: "count", of: null, what: "" }),
  passfail: () => ({ kind: "passfail", pass_word: "passed", fail_word: "failed" }),
  percent: () => ({ kind: "percent", what: "", resolution: 5 }),
  shade: () => ({
    kind: "shade",
    between: false,
    steps: ["#f2e8cf", "#dfc98f", "#bf9b4e", "#8f6a2a"].map((swatch, i) => ({
      label: String(i + 1),
      swatch,
    })),
  }),
  event: () => ({ kind: "event", what: "" }),
  ladder: () => ({ kind: "ladder", unit: "kg", steps: [5, 10, 15, 20, 25], repeats: 1 }),
  curve: () => ({
    kind: "curve",
    unit: "mm",
    step_unit: "kg",
    steps: [1, 2, 3, 4],
    number: "slope",
    through_zero: false,
  }),
  note: () => ({ kind: "note", prompt: "" }),
};

export const SCALE_NAMES: Record<Scale["kind"], string> = {
  grade: "grade, in levels",
  measurement: "measurement",
  count: "count",
  percent: "percent",
  passfail: "pass or fail",
  shade: "shade, by a chart",
  event: "event, when it happens",
  ladder: "ladder, rising load",
  curve: "curve, step by step",
  note: "note, in words",
};
