/** Arriving on a page: its title, what a screen reader is told, and where the focus goes.
 *
 * The heading of what opened takes the focus, as soon as it is there, unless the page chose a field of its
 * own or the person has gone on.
 */
import { nextTick, ref, watch } from "vue";
import { START_LOCATION, type Router } from "vue-router";

import { about, titled } from "./places";

/** What a screen reader is told: the title after each change of page, and what `tell` says. */
export const announced = ref("");

/** Tell a screen reader something it could not see happen, also when it was just told the same. */
export function tell(words: string): void {
  announced.value = announced.value === words ? `${words}\u00a0` : words;
}

const PATIENCE = 8_000;
let leave: () => void = () => undefined;

/** The heading of what is shown: the part of a page that opened, else the page's own. */
export const headingIn = (content: ParentNode = document) =>
  content.querySelector<HTMLElement>("#content [data-arrival]") ??
  content.querySelector<HTMLElement>("#content h1");

/** Give the focus to something that is no control. */
export function rest(target: HTMLElement): void {
  if (!target.matches("a[href], button, input, select, textarea, [tabindex]")) target.tabIndex = -1;
  target.focus({ preventScroll: true });
}

function arrive(): void {
  leave();
  const before = document.activeElement;
  const gone = new AbortController();
  const timer = window.setTimeout(() => gone.abort(), PATIENCE);
  const watching = new MutationObserver(() => land());
  leave = () => gone.abort();
  gone.signal.addEventListener("abort", () => {
    window.clearTimeout(timer);
    watching.disconnect();
  });
  // Whoever goes on by themselves is not called back.
  for (const kind of ["keydown", "pointerdown"])
    window.addEventListener(kind, () => gone.abort(), { signal: gone.signal, capture: true });
  function land(): void {
    const active = document.activeElement;
    const chosen = active && active !== document.body && active !== before;
    const heading = chosen ? null : headingIn();
    if (!chosen && !heading) return;
    gone.abort();
    if (heading) rest(heading);
  }
  void nextTick(() => {
    if (gone.signal.aborted) return;
    watching.observe(document.body, { childList: true, subtree: true });
    land();
  });
}

/** Name each page, announce it and lead the focus to it. */
export function useArrivals(router: Router): void {
  let path = "";
  router.beforeEach((to, from) => {
    if (to.params.id !== from.params.id) about.value = "";
  });
  router.afterEach((to, from, failure) => {
    if (failure) return;
    const first = from === START_LOCATION;
    const moved = to.path !== path;
    path = to.path;
    if (!first && moved) arrive();
  });
  watch(
    () => titled(router.currentRoute.value, about.value),
    (title) => {
      document.title = title;
      announced.value = title.replace(/, Field Tally$/, "");
    },
  );
}
