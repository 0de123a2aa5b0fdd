/** Where somebody wanted to go when they began to join; kept while they look for the letter that confirms
 * their address.
 */
const WANTED = "field-tally/after-joining";

/** A page of ours, whatever was asked for. */
export const pageOf = (to: unknown) =>
  typeof to === "string" && to.startsWith("/") && !to.startsWith("//") ? to : "/";
export const wantedAfterJoining = (to: string) => localStorage.setItem(WANTED, to);
export const afterJoining = () => pageOf(localStorage.getItem(WANTED));
