/** Signing in and out, joining, and a forgotten password: the account library's own API, typed by its
 * OpenAPI.
 */
import createClient from "openapi-fetch";

import type { paths } from "./accounts.schema";
import { trusted } from "./client";
import { Declined, Unreachable, type Problem } from "./problems";
import { forgetSeen } from "../offline/kept";
import { forgetRounds } from "../offline/rounds";
import { nowHere } from "../outbox";

export const accounts = createClient<paths>({ baseUrl: window.location.origin, fetch: trusted });
export const browser = { path: { client: "browser" as const } };

interface Errors {
  errors?: { message: string; param?: string }[];
}

/** What is still to be done before somebody is in. */
interface Flows {
  data?: { flows?: { id: string; is_pending?: boolean }[] };
}
const UNCONFIRMED =
  "Your address is not confirmed yet. A letter with a link is on its way to it; follow that first.";

type StillAsked = "" | "confirm" | "second step";

/** Resolves to what is still asked before somebody is in: their address confirmed, or a second step. */
export async function done(
  call: Promise<{ error?: unknown; response: Response }>,
  fine: number[] = [],
): Promise<StillAsked> {
  const { error, response } = await call;
  const flows = response.status === 401 ? ((error as Flows | undefined)?.data?.flows ?? []) : [];
  const pending = (id: string) => flows.some((flow) => flow.id === id && flow.is_pending);
  if (pending("mfa_authenticate")) return "second step";
  const confirm = pending("verify_email");
  if (response.ok || fine.includes(response.status)) return confirm ? "confirm" : "";
  const problems: Problem[] = ((error as Errors | undefined)?.errors ?? []).map((one) => ({
    at: one.param ?? "",
    says: one.message,
  }));
  throw new Declined(response.status, confirm ? [{ at: "email", says: UNCONFIRMED }] : problems);
}

/** What the device kept of pages is dropped: it may be another person's, whose sign-in only ran out, and show
 * more than this one may see.
 */
export async function entering(enter: () => Promise<StillAsked>): Promise<StillAsked> {
  if (!(await finishLeaving())) throw new Unreachable();
  const asked = await inTheirPlace(enter);
  await forgetSeen();
  return asked;
}

/** True where a second step is asked. */
export async function signIn(email: string, password: string): Promise<boolean> {
  const asked = await entering(() =>
    done(
      accounts.POST("/_allauth/{client}/v1/auth/login", {
        params: browser,
        body: { email, password } as never,
      }),
    ),
  );
  return asked === "second step";
}

/** Come in where somebody may still be signed in: they are signed out first, and what the device kept of
 * theirs is dropped.
 */
async function inTheirPlace<T>(enter: () => Promise<T>): Promise<T> {
  try {
    return await enter();
  } catch (error) {
    if (!(error instanceof Declined) || error.status !== 409) throw error;
    if (!(await signOut())) throw new Unreachable();
    return await enter();
  }
}

/** Join; true where the address has to be confirmed first, which is answered alike whether it is known here
 * or
 * not.
 */
export async function join(name: string, email: string, password: string): Promise<boolean> {
  const asked = await entering(() =>
    done(
      accounts.POST("/_allauth/{client}/v1/auth/signup", {
        params: browser,
        body: { name, email, password } as never,
      }),
      [401],
    ),
  );
  return asked === "confirm";
}

/** Confirm an address by the key of its letter; true once that has signed its owner in, which it does where
 * they joined in this browser.
 */
export async function confirmAddress(key: string): Promise<boolean> {
  const { response, error } = await accounts.POST("/_allauth/{client}/v1/auth/email/verify", {
    params: browser,
    body: { key },
  });
  if (response.status !== 401) await done(Promise.resolve({ response, error }));
  await forgetSeen();
  return response.ok;
}

const LEAVING = "field-tally/leaving";
/** Whether somebody has signed out here and the server has not heard of it yet. */
export const isLeaving = () => localStorage.getItem(LEAVING) !== null;

/** Sign out: on this device at once, whether there is a network or not.  True once the server knows; until
 * then nobody gets in here.
 */
export async function signOut(): Promise<boolean> {
  localStorage.setItem(LEAVING, "1");
  nowHere(null);
  await Promise.all([forgetSeen(), forgetRounds()]);
  return await finishLeaving();
}

/** Tell the server that somebody has left, where that is still to be done.  Signing out answers 401: there is
 * nobody any more.
 */
export async function finishLeaving(): Promise<boolean> {
  if (!isLeaving()) return true;
  try {
    await done(accounts.DELETE("/_allauth/{client}/v1/auth/session", { params: browser }), [401]);
  } catch {
    return false;
  }
  localStorage.removeItem(LEAVING);
  return true;
}
window.addEventListener("online", () => void finishLeaving());

export const askForNewPassword = (email: string) =>
  done(accounts.POST("/_allauth/{client}/v1/auth/password/request", { params: browser, body: { email } }));

/** Setting a new password answers 401 where signing in comes next. */
export const setNewPassword = (key: string, password: string) =>
  done(
    accounts.POST("/_allauth/{client}/v1/auth/password/reset", { params: browser, body: { key, password } }),
    [401],
  );

export const changePassword = (current_password: string, new_password: string) =>
  done(
    accounts.POST("/_allauth/{client}/v1/account/password/change", {
      params: browser,
      body: { current_password, new_password },
    }),
  );
