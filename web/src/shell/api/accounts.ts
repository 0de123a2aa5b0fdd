/** Signing in and out, joining, and a forgotten password: the account library's own API, typed by its OpenAPI. */
import createClient from "openapi-fetch";

import type { paths } from "./accounts.schema";
import { trusted } from "./client";
import { Declined, Unreachable, type Problem } from "./problems";
import { forgetSeen } from "../offline/kept";
import { forgetRounds } from "../offline/rounds";

const accounts = createClient<paths>({ baseUrl: window.location.origin, fetch: trusted });
const browser = { path: { client: "browser" as const } };

interface Errors {
  errors?: { message: string; param?: string }[];
}

async function done(call: Promise<{ error?: unknown; response: Response }>, fine: number[] = []): Promise<void> {
  const { error, response } = await call;
  if (response.ok || fine.includes(response.status)) return;
  const problems: Problem[] = ((error as Errors | undefined)?.errors ?? []).map((one) => ({
    at: one.param ?? "",
    says: one.message,
  }));
  throw new Declined(response.status, problems);
}

/** What the device kept of pages is dropped: it may be another person's, whose sign-in only ran out, and show more than this one may see. */
export async function signIn(email: string, password: string): Promise<void> {
  if (!(await finishLeaving())) throw new Unreachable();
  await done(accounts.POST("/_allauth/{client}/v1/auth/login", { params: browser, body: { email, password } as never }));
  await forgetSeen();
}

export async function join(name: string, email: string, password: string): Promise<void> {
  if (!(await finishLeaving())) throw new Unreachable();
  await done(accounts.POST("/_allauth/{client}/v1/auth/signup", { params: browser, body: { name, email, password } as never }));
  await forgetSeen();
}

const LEAVING = "field-tally/leaving";
/** Whether somebody has signed out here and the server has not heard of it yet. */
export const isLeaving = () => localStorage.getItem(LEAVING) !== null;

/** Sign out: on this device at once, whether there is a network or not.  True once the server knows; until then nobody gets in here. */
export async function signOut(): Promise<boolean> {
  localStorage.setItem(LEAVING, "1");
  await Promise.all([forgetSeen(), forgetRounds()]);
  return await finishLeaving();
}

/** Tell the server that somebody has left, where that is still to be done.  Signing out answers 401: there is nobody any more. */
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
  done(accounts.POST("/_allauth/{client}/v1/auth/password/reset", { params: browser, body: { key, password } }), [401]);

export const changePassword = (current_password: string, new_password: string) =>
  done(accounts.POST("/_allauth/{client}/v1/account/password/change", { params: browser, body: { current_password, new_password } }));
