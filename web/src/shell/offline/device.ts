/** What is kept on this device: readings that wait for the server, and rounds that were opened, to go on without it. */
import Dexie, { type EntityTable } from "dexie";

import type { Schemas } from "../api/client";

export type Reading = Schemas["WrittenIn"];

export interface Waiting {
  place?: number;
  id: string;
  trial: string;
  round: string;
  person: number;
  reading: Reading;
  refused: string;
}

export interface KeptRound {
  /** Trial, look and person. */
  key: string;
  person: number;
  round: Schemas["RoundOut"];
  at: number;
}

/** A reading that the server has, of a round that this device keeps. */
export interface StoredReading {
  /** Round, sample, outcome and take: there is one for each. */
  at: string;
  roundId: string;
  reading: Reading;
}

/** A timer that runs for a sample: when it ends, and what is to be done then. */
export interface KeptTimer {
  id: string;
  trial: string;
  code: string;
  says: string;
  ends: number;
  rung: number;
}

/** A photo that waits to be sent: the file as the camera gave it, and what it shows. */
export interface KeptPhoto {
  id: string;
  trial: string;
  person: number;
  file: Blob;
  shown: { checkpoint?: string; sample?: string; outcome?: string; level?: number; note?: string; caption?: string };
  taken_at: string;
}

class Device extends Dexie {
  waiting!: EntityTable<Waiting, "place">;
  rounds!: EntityTable<KeptRound, "key">;
  stored!: EntityTable<StoredReading, "at">;
  timers!: EntityTable<KeptTimer, "id">;
  photos!: EntityTable<KeptPhoto, "id">;
  /** Written to strictly, so that all that was written before it is on the disk. */
  flushes!: EntityTable<{ id: number; at: number }, "id">;
  constructor() {
    super("field-tally");
    this.version(1).stores({ waiting: "++place, &id, round, [trial+person]" });
    this.version(2).stores({ waiting: "++place, &id, round, [trial+person]", rounds: "key, person, at", stored: "at, roundId", timers: "id, trial", flushes: "id" });
    this.version(3).stores({ photos: "id, [trial+person]" });
  }
}

export const device = new Device();
