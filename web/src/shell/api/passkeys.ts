/** Passkeys: kept by a phone, a computer or a key on a ring; used instead of the password, or after it. */
import {
  browserSupportsWebAuthn,
  startAuthentication,
  startRegistration,
  type PublicKeyCredentialCreationOptionsJSON,
  type PublicKeyCredentialRequestOptionsJSON,
} from "@simplewebauthn/browser";

import { accounts, browser, done, entering } from "./accounts";
import type { components } from "./accounts.schema";
import { Declined } from "./problems";

export type Passkey = components["schemas"]["WebAuthnAuthenticator"];
const AT = "/_allauth/{client}/v1/account/authenticators/webauthn";
const LOGIN = "/_allauth/{client}/v1/auth/webauthn/login";
const SECOND = "/_allauth/{client}/v1/auth/webauthn/authenticate";

/** Whether this browser has them, at this address: one of numbers has no name that a passkey could be for. */
export const passkeysHere = () => browserSupportsWebAuthn() && !/^[\d.]+$|:/.test(window.location.hostname);

/** What a device answers, or a sentence where nothing came of it. */
async function asked<T>(device: Promise<T>): Promise<T> {
  try {
    return await device;
  } catch (error) {
    const known = error instanceof Error && error.name === "InvalidStateError";
    throw new Declined(422, [
      {
        at: "",
        says: known
          ? "This device keeps a passkey for you already."
          : "No passkey came from the device: it was turned down, or took too long. Try again.",
      },
    ]);
  }
}

/** The passkeys of whoever is signed in. */
export async function passkeys(): Promise<Passkey[]> {
  const { data } = await accounts.GET("/_allauth/{client}/v1/account/authenticators", { params: browser });
  return (data?.data ?? []).filter((one) => one.type === "webauthn");
}

/** Make one on this device, under a name; the password was given a moment ago. */
export async function addPasskey(name: string): Promise<void> {
  const { data, error, response } = await accounts.GET(AT, {
    params: { ...browser, query: { passwordless: true } },
  });
  await done(Promise.resolve({ error, response }));
  const { publicKey } = (data as unknown as Asked<"creation_options">).data.creation_options;
  const credential = await asked(startRegistration({ optionsJSON: publicKey }));
  await done(accounts.POST(AT, { params: browser, body: { name, credential } as never }));
}

/** Do away with one; it opens nothing from then on. */
export const dropPasskey = (id: number) =>
  done(accounts.DELETE(AT, { params: browser, body: { authenticators: [id] } }));

interface Asked<K extends string> {
  data: {
    [key in K]: {
      publicKey: K extends "creation_options"
        ? PublicKeyCredentialCreationOptionsJSON
        : PublicKeyCredentialRequestOptionsJSON;
    };
  };
}

/** Come in by one, as whoever it belongs to: without a password, or as the second step after it. */
export async function comeInByPasskey(after: "nothing" | "password"): Promise<void> {
  const at = after === "nothing" ? LOGIN : SECOND;
  await entering(async () => {
    const { data, error, response } = await accounts.GET(at, { params: browser });
    await done(Promise.resolve({ error, response }));
    const { publicKey } = (data as unknown as Asked<"request_options">).data.request_options;
    const credential = await asked(startAuthentication({ optionsJSON: publicKey }));
    return await done(accounts.POST(at, { params: browser, body: { credential } as never }));
  });
}
