/** Photos are kept on this device first, as readings are, and sent as soon as the server can be reached. */
import { reactive } from "vue";

import { answer, trusted, type Schemas } from "../api/client";
import { Declined } from "../api/problems";
import { queryClient } from "../query";
import { rightNow } from "./clock";
import { device, type KeptPhoto } from "./device";

/** How many photos of each trial wait on this device. */
export const waitingPhotos = reactive(new Map<string, number>());

async function count(trial: string, person: number): Promise<void> {
  waitingPhotos.set(trial, await device.photos.where({ trial, person }).count());
}

/** Keep a photo and try to send it.
 *
 * Resolves to true once the server has it, to false while it waits on the device; one that the server turns down is dropped, and what
 * was wrong with it is thrown. */
export async function keepPhoto(trial: string, person: number, file: Blob, shown: KeptPhoto["shown"]): Promise<boolean> {
  const kept: KeptPhoto = { id: crypto.randomUUID(), trial, person, file, shown, taken_at: rightNow().toISOString() };
  await device.photos.add(kept);
  return await sendPhoto(kept);
}

async function sendPhoto(kept: KeptPhoto): Promise<boolean> {
  const form = new FormData();
  form.set("id", kept.id);
  form.set("taken_at", kept.taken_at);
  for (const [name, value] of Object.entries(kept.shown)) if (value !== undefined) form.set(name, String(value));
  form.set("file", kept.file, "photo");
  try {
    const response = await trusted(new Request(`/api/trials/${kept.trial}/photos`, { method: "POST", body: form }));
    const data = (await response.json().catch(() => undefined)) as Schemas["PhotoOut"] | undefined;
    await answer(Promise.resolve({ data, error: data, response }));
  } catch (error) {
    if (!(error instanceof Declined) || error.status >= 500 || error.status === 401) {
      await count(kept.trial, kept.person);
      return false;
    }
    await device.photos.delete(kept.id);
    await count(kept.trial, kept.person);
    throw error;
  }
  await device.photos.delete(kept.id);
  await count(kept.trial, kept.person);
  await queryClient.invalidateQueries({ queryKey: ["photos", kept.trial] });
  return true;
}

/** Send what waits for a person, one after the other. */
export async function sendPhotos(person: number): Promise<void> {
  for (const kept of await device.photos.filter((one) => one.person === person).toArray()) await sendPhoto(kept).catch(() => undefined);
}

window.addEventListener("online", () => void device.photos.toArray().then((all) => Promise.all([...new Set(all.map((one) => one.person))].map(sendPhotos))));
