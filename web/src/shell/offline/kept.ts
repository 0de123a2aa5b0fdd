/** Which answers of the server are kept on the device for when there is no network, and dropping them. */

/** The name of the store they are kept in. */
export const SEEN = "seen";

const KEPT = [
  /^\/api\/(me|doorstep|shelf|today)$/,
  /^\/api\/trials\/[0-9a-f-]{36}\/(course|board|photos)$/,
  /^\/api\/photos\/[0-9a-f-]{36}\.jpg$/,
  /^\/api\/samples\/[0-9a-f-]{36}$/,
];

export const isKeptPath = (path: string) => KEPT.some((one) => one.test(path));

/** Drop all of it: another person may use the device next. */
export async function forgetSeen(): Promise<void> {
  if ("caches" in globalThis) await caches.delete(SEEN);
}
