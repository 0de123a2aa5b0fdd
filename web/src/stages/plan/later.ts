/** What an amendment adds to a sealed plan: samples as a block of their own, of new treatments too. */
import { block, treatment } from "./fresh";
import type { Plan } from "./usePlan";

export type AddedBlock = Plan["layout"]["blocks"][number] & {
  added: NonNullable<Plan["layout"]["blocks"][number]["added"]>;
};
/** What was drawn before, where it had no blocks, is the block without a key. */
export const FIRST = "From the start";

export const addedBlocks = (plan: Plan): AddedBlock[] =>
  plan.layout.blocks.filter((one): one is AddedBlock => one.added !== null);
/** What is being added now: it has no moment yet. */
export const adding = (plan: Plan): AddedBlock | undefined =>
  addedBlocks(plan).find((one) => one.added.at === "");
/** Squares, whole plots and pairs are complete as they were drawn. */
export const takesMore = (plan: Plan): boolean => ["random", "blocks"].includes(plan.layout.kind);
/** Treatments that only samples have which are added. */
export const isFresh = (plan: Plan, key: string): boolean =>
  addedBlocks(plan).length > 0 && plan.treatments.some((one) => one.key === key && one.samples === 0);

/** Begin to add: a block called `name`, in which nothing stands yet. */
export function beginAdding(plan: Plan, name: string): void {
  const inBlocks = plan.layout.kind === "blocks";
  const first = inBlocks ? plan.layout.blocks : [{ ...block(), key: "", name: FIRST }];
  plan.layout.kind = "blocks";
  plan.layout.blocks = [...first, { ...block(), name, added: { samples: {}, at: "" } }];
}

/** Leave it: the plan is as it was, without what was about to be added. */
export function leaveAdding(plan: Plan, before: Plan): void {
  const had = new Set(before.treatments.map((one) => one.key));
  plan.treatments = plan.treatments.filter((one) => had.has(one.key));
  plan.layout.kind = before.layout.kind;
  plan.layout.blocks = before.layout.blocks.map((one) => ({ ...one }));
}

/** A treatment that nobody had before, on `samples` new ones. */
export function addFresh(plan: Plan, samples: number): void {
  const now = adding(plan);
  if (!now) return;
  const one = treatment({ samples: 0, kind: "treatment" });
  plan.treatments.push(one);
  now.added.samples[one.key] = samples;
}

/** So many of a treatment are added; none takes it out, and a new one with it. */
export function setAdded(plan: Plan, key: string, many: number): void {
  const now = adding(plan);
  if (!now) return;
  if (many > 0) now.added.samples[key] = many;
  else Reflect.deleteProperty(now.added.samples, key);
}
