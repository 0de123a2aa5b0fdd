/** Shortcuts: a page says which keys it listens to and what they do, and they are listed while it is shown.
 */
import { onMounted, onUnmounted, shallowReactive } from "vue";

export interface Shortcut {
  keys: string;
  does: string;
}

export const shortcuts = shallowReactive<Shortcut[]>([]);

const typing = (target: EventTarget | null) =>
  target instanceof HTMLElement &&
  (target.isContentEditable || /^(INPUT|TEXTAREA|SELECT)$/.test(target.tagName));

/** Put shortcuts on the list while the component is shown. */
export function useListed(listed: Shortcut[]): void {
  onMounted(() => shortcuts.push(...listed));
  onUnmounted(() => listed.forEach((one) => shortcuts.splice(shortcuts.indexOf(one), 1)));
}

/** Call `act` on a key, unless somebody is typing. */
export function useKey(key: string, does: string, act: (event: KeyboardEvent) => void): void {
  useListed([{ keys: key, does }]);
  const listen = (event: KeyboardEvent) => {
    if (event.key !== key || typing(event.target) || event.ctrlKey || event.metaKey || event.altKey) return;
    event.preventDefault();
    act(event);
  };
  onMounted(() => window.addEventListener("keydown", listen));
  onUnmounted(() => window.removeEventListener("keydown", listen));
}
