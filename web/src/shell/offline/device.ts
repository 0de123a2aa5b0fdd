/** What is kept on this device: what waits for the server, and rounds that were opened, to go on without it.
 */
import Dexie, { type EntityTable } from "dexie";

import type { Schemas } from "../api/client";

export type Reading = Schemas["WrittenIn"];
export type Judgement = Schemas["JudgementIn"];
/** What a photo shows. */
export interface PhotoShown {
  checkpoint?: string;
  sample?: string;
  outcome?: string;
  level?: number;
  note?: string;
  caption?: string;
}

/** What may be sent, whatever it is: each has an id of its own, so that sending it twice stores it once. */
export type Content =
  | { kind: "reading"; body: Reading }
  | { kind: "photo"; body: PhotoShown; file: Blob }
  | { kind: "conditions"; body: Schemas["ConditionIn"] }
  | { kind: "note"; body: Schemas["NoteIn"] }
  | { kind: "answer"; body: Judgement };

/** One thing that waits: whose it is (0: of whoever sits in a booth), and in which lane it keeps its turn. */
export type Waiting = Content & {
  place?: number;
  id: string;
  /** What is in one lane goes one after the other; a lane that is held up holds up no other. */
  lane: string;
  trial: string;
  person: number;
  round: string;
  /** What it is, in words by which its giver knows it again. */
  called: string;
  given_at: string;
  /** Whether its words are kept as they are, though they tell a treatment. */
  insists?: boolean;
  /** Why the server turned it down; empty while it has not. */
  refused: string;
};

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

export const laneOf = (trial: string, person: number) => `${trial}/${person}`;
/** Photos have a lane beside it: readings never wait for pictures. */
export const photoLane = (trial: string, person: number) => `${laneOf(trial, person)}/photos`;

/** A reading as earlier versions kept it. */
export interface EarlierReading {
  place?: number;
  id: string;
  trial: string;
  round: string;
  person: number;
  reading: Reading;
  refused: string;
}
/** A photo as earlier versions kept it, in a table of its own. */
export interface EarlierPhoto {
  id: string;
  trial: string;
  person: number;
  file: Blob;
  shown: PhotoShown;
  taken_at: string;
}

/** A row of today from one of an earlier version. */
export function asWaiting(row: Waiting | EarlierReading): Waiting {
  if (!("reading" in row)) return row;
  const { reading, ...rest } = row;
  return {
    ...rest,
    kind: "reading",
    body: reading,
    lane: laneOf(row.trial, row.person),
    called: "A reading",
    given_at: reading.taken_at,
  };
}
export const photoAsWaiting = ({ file, shown, taken_at, ...rest }: EarlierPhoto): Waiting => ({
  ...rest,
  kind: "photo",
  body: shown,
  file,
  lane: photoLane(rest.trial, rest.person),
  round: "",
  called: "A photo",
  given_at: taken_at,
  refused: "",
});

class Device extends Dexie {
  waiting!: EntityTable<Waiting, "place">;
  rounds!: EntityTable<KeptRound, "key">;
  stored!: EntityTable<StoredReading, "at">;
  timers!: EntityTable<KeptTimer, "id">;
  /** Written to strictly, so that all that was written before it is on the disk. */
  flushes!: EntityTable<{ id: number; at: number }, "id">;
  constructor() {
    super("field-tally");
    this.version(1).stores({ waiting: "++place, &id, round, [trial+person]" });
    this.version(2).stores({
      waiting: "++place, &id, round, [trial+person]",
      rounds: "key, person, at",
      stored: "at, roundId",
      timers: "id, trial",
      flushes: "id",
    });
    this.version(3).stores({ photos: "id, [trial+person]" });
    this.version(4)
      .stores({ waiting: "++place, &id, round, lane, person", photos: null })
      .upgrade(async (change) => {
        const waiting = change.table<Waiting | EarlierReading>("waiting");
        for (const row of await waiting.toArray()) await waiting.put(asWaiting(row));
        for (const photo of await change.table<EarlierPhoto>("photos").toArray())
          await waiting.add(photoAsWaiting(photo));
      });
  }
}

export const device = new Device();
