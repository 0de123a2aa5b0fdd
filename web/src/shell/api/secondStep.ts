/** The second step of signing in, and setting it up: apart from the rest, for few pages need it. */
import { accounts, browser, done } from "./accounts";
import { Unreachable } from "./problems";

/** The second step: the code of somebody's app, or one of those they wrote down. */
export const secondStep = (code: string) =>
  done(accounts.POST("/_allauth/{client}/v1/auth/2fa/authenticate", { params: browser, body: { code } }));

/** Whether who came back from elsewhere is still asked for a second step; refused where nobody came. */
export const stillAsked = async () =>
  (await done(accounts.GET("/_allauth/{client}/v1/auth/session", { params: browser }))) === "second step";

/** Whether signing in takes two steps, and how many codes on paper are left. */
export async function twoSteps(): Promise<{ on: boolean; left: number }> {
  const { data } = await accounts.GET("/_allauth/{client}/v1/account/authenticators", { params: browser });
  const all = data?.data ?? [];
  const codes = all.find((one) => one.type === "recovery_codes");
  return {
    on: all.some((one) => one.type === "totp"),
    left: codes && "unused_code_count" in codes ? codes.unused_code_count : 0,
  };
}

/** Show that it is oneself, before a second step is set up or taken away. */
export const itIsMe = (password: string) =>
  done(accounts.POST("/_allauth/{client}/v1/auth/reauthenticate", { params: browser, body: { password } }));

/** What an app on the phone is to be told: a key, and the address that a square of it stands for. */
export async function newSecondStep(): Promise<{ secret: string; totp_url: string }> {
  const { error } = await accounts.GET("/_allauth/{client}/v1/account/authenticators/totp", {
    params: browser,
  });
  const meta = (error as { meta?: { secret: string; totp_url: string } } | undefined)?.meta;
  if (!meta) throw new Unreachable();
  return meta;
}

export const turnOn = (code: string) =>
  done(
    accounts.POST("/_allauth/{client}/v1/account/authenticators/totp", { params: browser, body: { code } }),
  );

export const turnOff = () =>
  done(accounts.DELETE("/_allauth/{client}/v1/account/authenticators/totp", { params: browser }));

/** The codes on paper; `fresh`: ten new ones, after which the old ones open nothing. */
export async function codesOnPaper(fresh = false): Promise<string[]> {
  const at = "/_allauth/{client}/v1/account/authenticators/recovery-codes";
  if (fresh) await done(accounts.POST(at, { params: browser }));
  const { data, error, response } = await accounts.GET(at, { params: browser });
  await done(Promise.resolve({ error, response }));
  return data?.data.unused_codes ?? [];
}
