/** Rounds opened once open again without a network, with all that was read in them as this device knows it.
 */
import { device, type Reading } from "./device";
import type { Schemas } from "../api/client";

const KEPT_FOR = 30 * 24 * 3_600_000;
const keyOf = (trial: string, checkpoint: string, person: number) => `${trial}/${checkpoint}/${person}`;

export async function keepRound(
  trial: string,
  checkpoint: string,
  person: number,
  round: Schemas["RoundOut"],
): Promise<void> {
  // What the server tells holds all that was noted since.
  await device.stored.where({ roundId: round.id }).delete();
  // A plain copy: what the page shows is reactive, which the store cannot take.
  await device.rounds.put({
    key: keyOf(trial, checkpoint, person),
    person,
    round: JSON.parse(JSON.stringify(round)) as Schemas["RoundOut"],
    at: Date.now(),
  });
  await device.rounds
    .where("at")
    .below(Date.now() - KEPT_FOR)
    .delete();
}

/** A round as this device knows it: as it was opened last, with what has been stored since. */
export async function keptRound(
  trial: string,
  checkpoint: string,
  person: number,
): Promise<Schemas["RoundOut"] | undefined> {
  const round = (await device.rounds.get(keyOf(trial, checkpoint, person)))?.round;
  if (!round) return undefined;
  const at = new Map(round.readings.map((one) => [`${one.sample}/${one.outcome}/${one.take}`, one]));
  for (const { reading } of await device.stored.where({ roundId: round.id }).toArray()) {
    const { id, sample, outcome, kind, value, words, responses, reason, source, take } = reading;
    if (kind === "withdrawn") at.delete(`${sample}/${outcome}/${take}`);
    else
      at.set(`${sample}/${outcome}/${take}`, {
        id,
        sample,
        outcome,
        kind,
        value,
        words,
        responses,
        reason,
        source,
        take,
        device: reading.device,
        taken_at: reading.taken_at,
      });
  }
  return { ...round, readings: [...at.values()] };
}

/** Note readings that the server has now, so that they show without a network too.  Each by itself: a key
 * press never waits for
 * a whole round to be written. */
export const noteStored = (readings: Reading[]) =>
  device.stored.bulkPut(
    readings.map((reading) => ({
      at: `${reading.round}/${reading.sample}/${reading.outcome}/${(reading.take as number | undefined) ?? 1}`,
      roundId: reading.round,
      reading,
    })),
  );

/** Drop the rounds of a person who signs out.  What still waits to be sent stays: it is theirs when they come
 * back.
 */
export const forgetRounds = () => Promise.all([device.rounds.clear(), device.stored.clear()]);
