/** The pages of a trial that this person may open, beside its course. */
import type { Schemas } from "@/shell/api/client";

type Course = Schemas["CourseOut"];

export interface TrialPage {
  name: string;
  label: string;
}

const PAGES: (TrialPage & { shown: (course: Course) => boolean })[] = [
  { name: "board", label: "Board", shown: () => true },
  { name: "log", label: "Log", shown: (course) => course.sees_readings || course.may_lead },
  {
    name: "panels",
    label: "Panels",
    shown: (course) => course.may_lead || course.role === "preparer" || course.opened_at !== null,
  },
  {
    name: "photos",
    label: "Photos",
    shown: (course) => course.role !== "viewer" || course.opened_at !== null,
  },
  {
    name: "agreement",
    label: "Agreement",
    shown: (course) => course.state !== "draft" && (course.may_lead || course.opened_at !== null),
  },
  { name: "people", label: "People", shown: () => true },
  {
    name: "training",
    label: "Practise grading",
    shown: (course) =>
      ["sealed", "running"].includes(course.state) && ["lead", "scorer"].includes(course.role),
  },
];

/** Of a tasting there are no looks, and so nothing of theirs. */
const TASTED = ["panels", "log", "people"];

export const trialPages = (course: Course): TrialPage[] =>
  PAGES.filter((one) => (course.is_tasting ? TASTED.includes(one.name) : true) && one.shown(course));
