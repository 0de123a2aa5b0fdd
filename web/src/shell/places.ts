/** The places that one tap leads to from anywhere, and what every page is called. */
import { ref } from "vue";
import type { RouteLocationNormalizedGeneric } from "vue-router";

export interface Place {
  key: string;
  /** As it stands in the frame, where room is short. */
  short: string;
  name: string;
  to: string;
  says: string;
}

export const PLACES: Place[] = [
  { key: "today", short: "Today", name: "Today", to: "/today", says: "what is due, late and coming" },
  { key: "shelf", short: "Shelf", name: "Shelf", to: "/", says: "all your trials" },
  { key: "known", short: "Known", name: "What we know", to: "/known", says: "across all trials" },
  {
    key: "bench",
    short: "Bench",
    name: "Bench sums",
    to: "/bench",
    says: "dilutions, doses, batches, units",
  },
  {
    key: "practice",
    short: "Practise",
    name: "Practise",
    to: "/practice",
    says: "can you tell by ear, eye or tongue?",
  },
  {
    key: "methods",
    short: "Methods",
    name: "Methods compared",
    to: "/methods",
    says: "do two ways of measuring agree?",
  },
  {
    key: "bring",
    short: "Bring in",
    name: "Bring in results",
    to: "/bring",
    says: "a table or a trial pack",
  },
  { key: "guide", short: "Guide", name: "Guide", to: "/guide", says: "ten jobs, step by step" },
  { key: "account", short: "You", name: "Your account", to: "/account", says: "name, tokens, leaving" },
];

/** Within the thumb's reach on a phone; all others are a tap further, under More. */
export const AT_HAND = ["today", "shelf", "bench"];

/** The trial, panel or sample that the open page is about. */
export const about = ref("");

/** What a page is called: its own name, then what it is about. */
export function titled(route: RouteLocationNormalizedGeneric, what: string): string {
  const { title } = route.meta;
  const own = typeof title === "function" ? title(route) : (title ?? "");
  return [own, what, "Field Tally"].filter(Boolean).join(", ");
}

declare module "vue-router" {
  interface RouteMeta {
    /** Strangers may read it. */
    open?: boolean;
    /** It has the screen for itself: nothing beside it leads away. */
    alone?: boolean;
    title?: string | ((route: RouteLocationNormalizedGeneric) => string);
  }
}
