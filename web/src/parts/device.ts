/** What not every browser can do, whatever its types say: where it cannot, nothing happens. */

/** A shake, as long as `pattern` says, in milliseconds. */
export function shake(pattern: number | number[]): void {
  if ("vibrate" in navigator) navigator.vibrate(pattern);
}

/** Put `text` where it can be pasted from; not there on an address without encryption. */
export async function copyText(text: string): Promise<void> {
  if ("clipboard" in navigator) await navigator.clipboard.writeText(text);
}
