/** Shortcuts: a page says which keys it listens to and what they do; they are listed while it is shown.
 *
 * A person may give each another key, and may switch all of those off that are one key alone: whoever speaks
 * to the machine, or whose hand rests on the keys, would press them unawares.  Kept on the device.
 */
import { computed, onMounted, onUnmounted, reactive, ref, shallowReactive } from "vue";

export interface Shortcut {
  keys: string;
  does: string;
  /** Whether it may be given another key: those in the words of a scale may not. */
  fixed?: boolean;
}
interface Chosen {
  off: boolean;
  /** The key a person chose, by what it does. */
  keys: Record<string, string>;
}

const KEPT = "field-tally/keys";

function kept(): Chosen {
  try {
    const found = JSON.parse(localStorage.getItem(KEPT) ?? "{}") as Partial<Chosen>;
    return { off: found.off === true, keys: { ...found.keys } };
  } catch {
    return { off: false, keys: {} };
  }
}
const chosen = reactive<Chosen>(kept());
function keep(): void {
  try {
    localStorage.setItem(KEPT, JSON.stringify(chosen));
  } catch {
    // Without room it holds until the page is closed.
  }
}

/** Whether single keys do nothing. */
export const keysOff = computed({
  get: () => chosen.off,
  set: (off: boolean) => {
    chosen.off = off;
    keep();
  },
});

export const shortcuts = shallowReactive<Shortcut[]>([]);

/** Whether the list of shortcuts lies open. */
export const isListed = ref(false);

/** The key that does it now. */
export const keyOf = (one: Shortcut) => (one.fixed ? one.keys : (chosen.keys[one.does] ?? one.keys));

/** Whether any shortcut has a key of somebody's own. */
export const areChanged = computed(() => Object.keys(chosen.keys).length > 0);

/** Give a shortcut another key; returns what speaks against it, empty where nothing does. */
export function changeKey(one: Shortcut, key: string): string {
  if (key.length !== 1 && !/^(Arrow|F\d|Page|Home|End|Insert|Delete)/.test(key))
    return "This key is needed for getting about. Take a letter, a sign, an arrow or one of F1 to F12.";
  if (/^\d$/.test(key)) return "Digits give grades. Take another key.";
  const taken = shortcuts.find((each) => each.does !== one.does && keyOf(each) === key);
  if (taken) return `“${key}” is taken: ${taken.does}.`;
  chosen.keys[one.does] = key;
  keep();
  return "";
}

/** All keys as they were at first. */
export function keysAsFirst(): void {
  chosen.keys = {};
  keep();
}

const typing = (target: EventTarget | null) =>
  target instanceof HTMLElement &&
  (target.isContentEditable || /^(INPUT|TEXTAREA|SELECT)$/.test(target.tagName));

/** Whether a key pressed alone may do something here: not where somebody types, and not where it is off. */
export const isAlone = (event: KeyboardEvent) =>
  !chosen.off &&
  !typing(event.target) &&
  !event.ctrlKey &&
  !event.metaKey &&
  !event.altKey &&
  // What a dialog is asked is not answered by the page beneath.
  !(event.target instanceof Element && event.target.closest("[role=dialog], dialog"));

/** Put shortcuts on the list while the component is shown. */
export function useListed(listed: Shortcut[]): void {
  const fixed = listed.map((one) => ({ ...one, fixed: one.fixed ?? true }));
  onMounted(() => shortcuts.push(...fixed));
  onUnmounted(() => fixed.forEach((one) => shortcuts.splice(shortcuts.indexOf(one), 1)));
}

/** Call `act` on a key, unless somebody is typing. */
export function useKey(key: string, does: string, act: (event: KeyboardEvent) => void): void {
  const own: Shortcut = { keys: key, does, fixed: false };
  useListed([own]);
  const listen = (event: KeyboardEvent) => {
    if (event.key !== keyOf(own) || !isAlone(event)) return;
    event.preventDefault();
    act(event);
  };
  onMounted(() => window.addEventListener("keydown", listen));
  onUnmounted(() => window.removeEventListener("keydown", listen));
}
