/** The focus is never lost: where what had it goes away, or rests for a moment, it goes to what stands
 * nearest. */
import { headingIn, rest } from "./arrival";

const HEADINGS = "h1, h2, h3, legend, [data-arrival]";
const off = (element: Element) => element.matches(":disabled");

let last: HTMLElement | null = null;
/** What `last` stood in, from the inside out: it is asked once `last` is gone. */
let around: HTMLElement[] = [];

function remember(event: FocusEvent): void {
  if (!(event.target instanceof HTMLElement) || event.target === document.body) return;
  last = event.target;
  around = [];
  for (let up = last.parentElement; up && up !== document.body; up = up.parentElement) around.push(up);
}

/** Where the focus goes that was in something that is gone. */
export function nearest(inside: readonly HTMLElement[]): HTMLElement | null {
  for (const one of inside) {
    if (!one.isConnected) continue;
    if (one.id === "content" || one.id === "app") break;
    const heading = one.querySelector<HTMLElement>(HEADINGS);
    if (heading) return heading;
  }
  return headingIn();
}

function mend(): void {
  if (!last || (document.activeElement && document.activeElement !== document.body)) return;
  if (!last.isConnected) {
    const next = nearest(around);
    last = null;
    if (next) rest(next);
  } else if (!off(last)) last.focus({ preventScroll: true });
}

let asked = 0;
function soon(): void {
  window.clearTimeout(asked);
  // A page that is being redrawn, or a sheet that closes, gives the focus somewhere itself.
  asked = window.setTimeout(mend, 120);
}

const FIELDS = "input:not([type=checkbox], [type=radio]), select, textarea";

/** A button that adds something (`data-adds`) leads to the first field of what is new: who types on does not
 * press it again. */
function leadToNew(event: MouseEvent): void {
  const button = event.target instanceof Element ? event.target.closest("[data-adds]") : null;
  if (!button) return;
  const before = new Set(document.querySelectorAll(FIELDS));
  // Once the page is drawn anew.
  window.setTimeout(() => {
    const fresh = [...document.querySelectorAll<HTMLElement>(FIELDS)].find((one) => !before.has(one));
    fresh?.focus();
  });
}

/** Watch over the focus from now on. */
export function keepFocus(): void {
  document.addEventListener("focusin", remember);
  document.addEventListener("click", leadToNew, { capture: true });
  document.addEventListener("pointerdown", (event) => {
    // Whoever presses beside everything has let go of it.
    if (
      !(event.target instanceof Element) ||
      !event.target.closest("a, button, input, select, textarea, label, summary")
    )
      last = null;
  });
  new MutationObserver((changes) => {
    if (last && changes.some((one) => one.removedNodes.length > 0 || one.attributeName === "disabled"))
      soon();
  }).observe(document.body, {
    childList: true,
    subtree: true,
    attributes: true,
    attributeFilter: ["disabled"],
  });
}
