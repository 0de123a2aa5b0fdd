/** The one way to the server: typed by its OpenAPI, errors in one shape. */
import createClient from "openapi-fetch";

import { learn } from "../offline/clock";
import type { components, paths } from "./server.schema";
import { Declined, Unreachable, type Problem } from "./problems";

export type Schemas = components["schemas"];

function cookie(name: string): string {
  const found = document.cookie.split("; ").find((part) => part.startsWith(`${name}=`));
  return found ? decodeURIComponent(found.slice(name.length + 1)) : "";
}

/** Fetch with the CSRF token; a request that never got an answer is Unreachable. */
export async function trusted(input: Request): Promise<Response> {
  if (!["GET", "HEAD"].includes(input.method)) input.headers.set("X-CSRFToken", cookie("csrftoken"));
  const asked = Date.now();
  try {
    const answered = await fetch(input);
    learn(answered.headers.get("Date"), asked, Date.now());
    return answered;
  } catch {
    throw new Unreachable();
  }
}

export const api = createClient<paths>({ baseUrl: window.location.origin, fetch: trusted });

/** The answer of a call, or a thrown Declined with the sentences of the server. */
export async function answer<T>(
  call: Promise<{ data?: T; error?: unknown; response: Response }>,
): Promise<T> {
  const { data, error, response } = await call;
  if (response.ok) return data as T;
  const problems = (error as { problems?: Problem[] } | undefined)?.problems;
  throw new Declined(response.status, problems ?? []);
}
