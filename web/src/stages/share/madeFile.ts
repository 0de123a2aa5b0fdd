/** A file of a trial that may take a while to be made. */
import { answer, api, type Schemas } from "@/shell/api/client";

export type FileState = Schemas["FileOut"];
export interface Wanted {
  /** Of one's own trial, or of the page published at `token`. */
  trial?: string;
  token?: string;
  what: Schemas["FileIn"]["what"];
  paper?: Schemas["FileIn"]["paper"];
  short?: boolean;
  /** With the values of all samples, however many they are. */
  whole?: boolean;
}
const ENDINGS = {
  readings: "readings.csv",
  pack: "pack.zip",
  workbook: "workbook.xlsx",
  report: "report.pdf",
};
const EVERY = 1_000;

/** Where it is for who does not press but opens the link elsewhere. */
export function addressOf(wanted: Wanted): string {
  const asked = [
    ...(wanted.paper === "letter" ? ["paper=letter"] : []),
    ...(wanted.short ? ["short=true"] : []),
    ...(wanted.whole ? ["whole=true"] : []),
  ];
  const base = wanted.trial ? `/api/trials/${wanted.trial}` : `/api/published/${wanted.token}`;
  return `${base}/${ENDINGS[wanted.what]}${asked.length ? `?${asked.join("&")}` : ""}`;
}

/** Have it made; `told` how far it is, until its address is there. Fails with the sentence why not; is given
 * up, without an address, when `signal` says so.
 */
export async function made(
  wanted: Wanted,
  told: (now: FileState) => void,
  signal: AbortSignal,
): Promise<string | undefined> {
  const body = {
    what: wanted.what,
    paper: wanted.paper ?? "a4",
    short: wanted.short ?? false,
    whole: wanted.whole ?? false,
  };
  let now = wanted.trial
    ? await answer(
        api.POST("/api/trials/{trial_id}/files", { params: { path: { trial_id: wanted.trial } }, body }),
      )
    : await answer(
        api.POST("/api/published/{token}/files", { params: { path: { token: wanted.token ?? "" } }, body }),
      );
  const file_id = now.href.split("/").at(-1) ?? "";
  while (now.state === "waiting" || now.state === "running") {
    told(now);
    await new Promise((later) => window.setTimeout(later, EVERY));
    if (signal.aborted) return undefined;
    now = wanted.trial
      ? await answer(
          api.GET("/api/trials/{trial_id}/files/{file_id}", {
            params: { path: { trial_id: wanted.trial, file_id }, query: { ask: true } },
          }),
        )
      : await answer(
          api.GET("/api/published/{token}/files/{file_id}", {
            params: { path: { token: wanted.token ?? "", file_id }, query: { ask: true } },
          }),
        );
  }
  if (now.state === "failed") throw new Error(now.says);
  return now.href;
}

/** How far it is, in words. */
export const saysOf = ({ says, done, total }: FileState): string =>
  total ? `${says} ${Math.floor((100 * done) / total)} %` : says;
