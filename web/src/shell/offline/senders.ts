/** How each kind of thing is sent, and how many of it at once. */
import { keys } from "@/shell/queryKeys";
import { sure } from "@/parts/sure";
import { answer, api, trusted, type Schemas } from "../api/client";
import { ANYWAY, Declined } from "../api/problems";
import { queryClient } from "../query";
import type { Waiting } from "./device";
import { noteStored } from "./rounds";

/** A reading that is worth a second look, and why. */
export type Odd = Schemas["OddOut"];
type Kind = Waiting["kind"];
type Of<K extends Kind> = Extract<Waiting, { kind: K }>;

interface Sender<K extends Kind> {
  atOnce: number;
  /** Send them; resolves once the server has said that it has them all, with those worth a second look. */
  send(rows: Of<K>[]): Promise<Odd[]>;
}

const BOOTH_DEVICE = "field-tally/booth/device";
/** The name of this device, made once; a booth's link opened on it stays its own. */
export function deviceName(): string {
  const found = localStorage.getItem(BOOTH_DEVICE) ?? crypto.randomUUID();
  localStorage.setItem(BOOTH_DEVICE, found);
  return found;
}
export const boothLane = (token: string) => `booth/${token}`;

const trialOf = (row: Waiting) => ({ params: { path: { trial_id: row.trial } } });

async function readings(rows: Of<"reading">[]): Promise<Odd[]> {
  const { stored, odd } = await answer(
    api.POST("/api/trials/{trial_id}/readings", {
      ...trialOf(sure(rows[0])),
      body: { readings: rows.map((row) => row.body) },
    }),
  );
  // Of which the server does not say that it has it, that is not taken for stored.
  if (rows.some((row) => !stored.includes(row.id))) throw new Declined(502, []);
  await noteStored(rows.map((row) => row.body));
  return odd;
}

async function photo([row]: Of<"photo">[]): Promise<Odd[]> {
  const form = new FormData();
  form.set("id", sure(row).id);
  form.set("taken_at", sure(row).given_at);
  for (const [name, value] of Object.entries(sure(row).body))
    if (value !== undefined) form.set(name, String(value));
  form.set("file", sure(row).file, "photo");
  const response = await trusted(
    new Request(`/api/trials/${sure(row).trial}/photos`, { method: "POST", body: form }),
  );
  const data = (await response.json().catch(() => undefined)) as Schemas["PhotoOut"] | undefined;
  await answer(Promise.resolve({ data, error: data, response }));
  await queryClient.invalidateQueries({ queryKey: keys.photos(sure(row).trial) });
  return [];
}

async function conditions([row]: Of<"conditions">[]): Promise<Odd[]> {
  const noted = await answer(
    api.POST("/api/trials/{trial_id}/conditions", { ...trialOf(sure(row)), body: sure(row).body }),
  );
  queryClient.setQueryData(keys.conditions(sure(row).trial), noted);
  return [];
}

async function note([row]: Of<"note">[]): Promise<Odd[]> {
  await answer(
    api.POST("/api/trials/{trial_id}/notes", {
      ...trialOf(sure(row)),
      ...(sure(row).insists ? { headers: ANYWAY } : {}),
      body: sure(row).body,
    }),
  );
  await queryClient.invalidateQueries({ queryKey: keys.log(sure(row).trial) });
  return [];
}

async function judgement([row]: Of<"answer">[]): Promise<Odd[]> {
  const token = sure(row).lane.slice(boothLane("").length);
  const asked = { params: { path: { token }, header: { "X-Booth-Device": deviceName() } } };
  await answer(
    api.POST("/api/booth/{token}/judgements", { ...asked, body: { judgements: [sure(row).body] } }),
  );
  return [];
}

const SENDERS: { [K in Kind]: Sender<K> } = {
  reading: { atOnce: 100, send: readings },
  photo: { atOnce: 1, send: photo },
  conditions: { atOnce: 1, send: conditions },
  note: { atOnce: 1, send: note },
  answer: { atOnce: 1, send: judgement },
};
interface AnySender {
  atOnce: number;
  send(rows: Waiting[]): Promise<Odd[]>;
}

export function senderOf(row: Waiting): AnySender {
  const found: unknown = SENDERS[row.kind];
  return found as AnySender;
}
