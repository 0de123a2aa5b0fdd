/** The parts that a plan is written in, in the order in which people think of them. */
export type PartKey = "question" | "treatments" | "equal" | "outcomes" | "layout" | "looks" | "fairness" | "dry-run";

export const PARTS: { key: PartKey; name: string; holds: string[] }[] = [
  { key: "question", name: "Question", holds: ["title", "question", "why", "decision", "hazards", "purpose", "school", "sample_word", "pieces", "piece_word", "zone", "alpha", "compare", "money", "sample_cost", "earlier"] },
  { key: "treatments", name: "Treatments", holds: ["treatments", "factors"] },
  { key: "equal", name: "Held equal", holds: ["held_equal"] },
  { key: "outcomes", name: "Outcomes", holds: ["outcomes"] },
  { key: "layout", name: "Layout", holds: ["layout"] },
  { key: "looks", name: "Looks", holds: ["checkpoints", "stop", "starts_on", "cycle_word", "cycle_minutes"] },
  { key: "fairness", name: "Fairness", holds: ["fairness"] },
  { key: "dry-run", name: "Dry run", holds: [] },
];

/** The part of the plan that a path belongs to. */
export const partOf = (at: string) => PARTS.find((one) => one.holds.includes(at.split(".")[0]!)) ?? PARTS[0]!;
