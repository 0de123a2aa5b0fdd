/** The parts that a plan is written in, in the order in which people think of them. */
import { sure } from "@/parts/sure";
export type PartKey =
  | "question"
  | "treatments"
  | "doses"
  | "equal"
  | "outcomes"
  | "layout"
  | "looks"
  | "begun"
  | "fairness"
  | "dry-run";

export const PARTS: { key: PartKey; name: string; holds: string[] }[] = [
  {
    key: "question",
    name: "Question",
    holds: [
      "title",
      "question",
      "why",
      "decision",
      "hazards",
      "purpose",
      "school",
      "sample_word",
      "sample_words",
      "pieces",
      "piece_word",
      "zone",
      "alpha",
      "compare",
      "money",
      "sample_cost",
      "earlier",
      "agreement",
      "shared_costs",
      "outside",
    ],
  },
  { key: "treatments", name: "Treatments", holds: ["treatments", "factors"] },
  {
    key: "doses",
    name: "Doses",
    holds: ["system", "sample_size", "carrier", "top_up", "mixing", "overage", "cleaning", "products"],
  },
  { key: "equal", name: "Held equal", holds: ["held_equal"] },
  { key: "outcomes", name: "Outcomes", holds: ["outcomes"] },
  { key: "layout", name: "Layout", holds: ["layout", "start_values"] },
  {
    key: "looks",
    name: "Looks",
    holds: ["checkpoints", "ending", "starts_on", "cycle_word", "cycle_minutes", "cycle_settings"],
  },
  { key: "begun", name: "So far", holds: ["begun"] },
  { key: "fairness", name: "Fairness", holds: ["fairness"] },
  { key: "dry-run", name: "Dry run", holds: [] },
];

/** What parts are called where instruments are held against each other. */
const OF_INSTRUMENTS: Partial<Record<PartKey, string>> = {
  treatments: "What is read",
  outcomes: "Instruments",
};
interface Asked {
  begun?: unknown;
  agreement?: object | null;
}
/** The parts that a plan has: what happened so far only where it has begun, a dry run where one can win. */
export const partsOf = (plan: Asked) =>
  PARTS.filter(
    (one) => (one.key !== "begun" || plan.begun) && (one.key !== "dry-run" || !plan.agreement),
  ).map((one) => ({ ...one, name: nameOf(one, plan) }));
/** What a part is called in this plan. */
export const nameOf = (part: (typeof PARTS)[number], plan: Asked): string =>
  (plan.agreement ? OF_INSTRUMENTS[part.key] : undefined) ?? part.name;

/** The part of the plan that a path belongs to. */
export const partOf = (at: string) =>
  /^treatments\.\d+\.(doses|vessel)/.test(at)
    ? sure(PARTS.find((one) => one.key === "doses"))
    : (PARTS.find((one) => one.holds.includes(sure(at.split(".")[0]))) ?? sure(PARTS[0]));
