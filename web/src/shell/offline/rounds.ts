/** Rounds opened once open again without a network, with all that was read in them as this device knows it. */
import { device, type Reading } from "./device";
import type { Schemas } from "../api/client";

const KEPT_FOR = 30 * 24 * 3_600_000;
const keyOf = (trial: string, checkpoint: string, person: number) => `${trial}/${checkpoint}/${person}`;

export async function keepRound(trial: string, checkpoint: string, person: number, round: Schemas["RoundOut"]): Promise<void> {
  // A plain copy: what the page shows is reactive, which the store cannot take.
  await device.rounds.put({ key: keyOf(trial, checkpoint, person), person, roundId: round.id, round: JSON.parse(JSON.stringify(round)) as Schemas["RoundOut"], at: Date.now() });
  await device.rounds.where("at").below(Date.now() - KEPT_FOR).delete();
}

export const keptRound = async (trial: string, checkpoint: string, person: number) => (await device.rounds.get(keyOf(trial, checkpoint, person)))?.round;

/** Enter readings that the server has now into the rounds that this device keeps, so that they show without a network too. */
export async function enterStored(readings: Reading[]): Promise<void> {
  for (const id of new Set(readings.map((one) => one.round))) {
    const own = readings.filter((one) => one.round === id);
    await device.rounds.where({ roundId: id }).modify((kept) => {
      const at = new Map(kept.round.readings.map((one) => [`${one.sample}/${one.outcome}`, one]));
      for (const one of own) {
        const where = `${one.sample}/${one.outcome}`;
        if (one.kind === "withdrawn") at.delete(where);
        else at.set(where, { id: one.id, sample: one.sample, outcome: one.outcome, kind: one.kind, value: one.value, words: one.words, responses: one.responses, reason: one.reason, source: one.source, device: one.device });
      }
      kept.round.readings = [...at.values()];
    });
  }
}

/** Drop the rounds of a person who signs out.  What still waits to be sent stays: it is theirs when they come back. */
export const forgetRounds = () => device.rounds.clear();
