/** A round at work: what is read, what waits on the device, where the scorer stands, and undoing. */
import { sure } from "@/parts/sure";
import { computed, onUnmounted, reactive, ref, shallowRef, toRaw } from "vue";

import { askedOf } from "./steps";
import { fieldOf, momentIn } from "@/parts/localMoment";
import { patiently } from "@/shell/patience";
import { answer, api, type Schemas } from "@/shell/api/client";
import { Unreachable } from "@/shell/api/problems";
import { rightNow } from "@/shell/offline/clock";
import { keepRound, keptRound } from "@/shell/offline/rounds";
import {
  held,
  keep,
  laneOf,
  nowHere,
  onSettled,
  reached,
  send,
  waitingFor,
  waitingIn,
  type Reading,
  type Waiting,
} from "@/shell/outbox";

export type Round = Schemas["RoundOut"];
export type RoundSample = Schemas["RoundSample"];
export type Outcome = Schemas["OutcomeOut"];

/** What a scorer gives: a number, words, or the responses of a curve. */
export type Given = number | string | (number | null)[];

/** How long, in ms, a round waits for what was scored before it to arrive. */
const SLOW = 2_000;
const HOUR = 3_600_000;
const waitFor = (ms: number) => new Promise<void>((done) => window.setTimeout(done, ms));

export interface Cell {
  id: string;
  kind: Reading["kind"];
  value: number | null;
  words: string;
  responses: (number | null)[] | null;
  reason: string;
  source: Reading["source"];
  device: string;
  /** What it was read as again, later in the same round; all of them count as the plan says. */
  again: number[];
  /** Whether the server has it. */
  stored: boolean;
}

/** How a score came about: written on paper before, read from a device, or worked out. */
export interface How {
  source?: Reading["source"];
  device?: string;
  reason?: string;
}

/** A reading with what was given in its place. */
export function saidOf(
  given: Given,
  how: How = {},
): How & { kind: "value"; value?: number; words?: string; responses?: (number | null)[] } {
  if (typeof given === "string") return { ...how, kind: "value", words: given };
  return Array.isArray(given)
    ? { ...how, kind: "value", responses: given }
    : { ...how, kind: "value", value: given };
}

/** A reading in words, by which whoever gave it knows it again. */
function calledOf(sample: RoundSample, outcome: Outcome, { kind, value, words, responses }: Reading): string {
  const said = value ?? (words || responses?.map((one) => one ?? "–").join(", "));
  return `${sample.code}, ${outcome.name}: ${kind === "value" ? said : kind === "withdrawn" ? "taken back" : "could not be read"}`;
}

/** The reason that marks a score beside the sample's own window. */
const BESIDE = "beside its own look";

/** What is wrong with a day and hour at which a round is said to have been seen. */
export function dateSays(field: string, round: Pick<Round, "earliest" | "name"> | undefined): string {
  if (!field) return "";
  const seen = Date.parse(momentIn(field));
  if (seen > rightNow().getTime() + HOUR) return "That day and hour lie in the future.";
  const earliest = round?.earliest ? Date.parse(round.earliest) : 0;
  return seen < earliest - HOUR ? "That was before there was anything to look at." : "";
}

const at = (sample: string, outcome: string) => `${sample}/${outcome}`;

export function useRound(trial: string, person: number) {
  // Read and never changed: of some trials it is large.
  const round = shallowRef<Round>();
  const cells = reactive(new Map<string, Cell>());
  const lane = laneOf(trial, person);
  /** Which cell (sample and outcome) holds a reading. */
  const cellAt = new Map<string, string>();
  /** Kept as it changes, so that a key pressed costs the same however many samples there are. */
  const tally = reactive({ solid: 0, hollow: 0, paper: 0 });
  const standing = new Map<string, "solid" | "hollow">();
  const onPaper = new Set<string>();
  /** The outcomes that are not read on a sample, where there are any. */
  const skipped = new Map<string, string[]>();
  /** What of this round the server turned down, and what this device itself has no room for. */
  const refused = ref<Waiting[]>([]);
  const noRoom = ref("");
  /** Whether what is typed now was written on a paper sheet before. */
  const paper = ref(false);
  /** When what is typed from paper was seen, as a field has it: all of it, and single samples; empty: now. */
  const seenOn = ref("");
  const seenThen = reactive(new Map<string, string>());
  /** What is wrong with that day and hour; nothing is typed in before it is mended. */
  const seenSays = computed(() => (paper.value ? dateSays(seenOn.value, round.value) : ""));
  function momentOf(sample: RoundSample): Date {
    const field = paper.value ? (seenThen.get(sample.id) ?? seenOn.value) : "";
    return field ? new Date(momentIn(field)) : rightNow();
  }
  /** Samples whose own look is not now, and whose scorer has said that they are scored all the same. */
  const allowed = reactive(new Set<string>());
  const asking = shallowRef<{ sample: RoundSample; say: (yes: boolean) => void }>();
  /** Whether somebody has to say first that this sample is scored beside its own window. */
  const isOutside = (sample: RoundSample) =>
    !paper.value && !allowed.has(sample.id) && Boolean(sample.opens ?? sample.closed);
  const ask = (sample: RoundSample) =>
    new Promise<boolean>((done) => {
      asking.value = {
        sample,
        say: (yes) => {
          asking.value = undefined;
          if (yes) allowed.add(sample.id);
          done(yes);
        },
      };
    });
  /** Values worth a second look, until somebody has looked. */
  const odd = ref<{ id: string; sample: RoundSample; outcome: Outcome; says: string }[]>([]);
  const undoable = ref<{ sample: RoundSample; outcome: Outcome; before: Cell | undefined }[]>([]);

  /** The round as the server has it, else as this device kept it. */
  async function opening(checkpoint: string, lookedBy: string): Promise<Round> {
    try {
      const opened = await patiently(
        answer(
          api.POST("/api/trials/{trial_id}/rounds", {
            params: { path: { trial_id: trial } },
            body: { checkpoint, looked_by: lookedBy },
          }),
        ),
      );
      await keepRound(trial, checkpoint, person, opened);
      return opened;
    } catch (error) {
      const kept = error instanceof Unreachable ? await keptRound(trial, checkpoint, person) : undefined;
      if (!kept) throw error;
      reached.value = false;
      // One that an earlier version kept asks everything of every sample.
      for (const sample of kept.samples as Partial<Pick<RoundSample, "skips">>[]) sample.skips ??= [];
      return kept;
    }
  }

  /** When a look of the notebook was seen: as most of what is typed in says, else when it was due. */
  function seenBefore({ readings, due }: Round): void {
    const days = readings.map((one) => [one.sample, fieldOf(new Date(one.taken_at))] as const);
    const many = new Map<string, number>();
    for (const [, day] of days) many.set(day, (many.get(day) ?? 0) + 1);
    const usual = [...many].sort((a, b) => b[1] - a[1])[0]?.[0];
    seenOn.value = usual ?? fieldOf(due ? new Date(due) : rightNow());
    for (const [sample, day] of days) if (day !== usual) seenThen.set(sample, day);
  }
  async function open(checkpoint: string, lookedBy = ""): Promise<void> {
    if (person) nowHere(person);
    // What waits may reach the server while the round is asked for, and would then be in neither.
    const waited = await waitingFor(person);
    // What was given at the look before may still be on its way, and this round shows it; a slow line is not
    // waited for.
    if (waited.some((one) => one.trial === trial && !one.refused))
      await Promise.race([send(lane), waitFor(SLOW)]);
    const opened = await opening(checkpoint, lookedBy);
    if (opened.notebook) {
      paper.value = true;
      seenBefore(opened);
    }
    for (const one of opened.readings.filter((each) => each.take === 1))
      cells.set(at(one.sample, one.outcome), {
        id: one.id,
        kind: one.kind,
        value: one.value,
        words: one.words,
        responses: one.responses,
        reason: one.reason,
        source: one.source,
        device: one.device,
        again: [],
        stored: true,
      });
    for (const [key, cell] of toRaw(cells)) cellAt.set(cell.id, key);
    for (const one of opened.readings.filter((each) => each.take > 1 && each.value !== null))
      cells.get(at(one.sample, one.outcome))?.again.push(sure(one.value));
    const waiting = await waitingIn(opened.id, person);
    const settled = new Set([...opened.readings, ...waiting].map((one) => one.id));
    for (const one of waited)
      if (one.kind === "reading" && one.round === opened.id && !settled.has(one.id)) put(one.body, true);
    for (const one of waiting) if (one.kind === "reading") put(one.body, false);
    round.value = opened;
    for (const sample of opened.samples) if (sample.skips.length) skipped.set(sample.id, sample.skips);
    for (const sample of opened.samples) recount(sample.id);
    await showRefused();
    void send(lane);
  }

  /** How a sample stands now. */
  function recount(sample: string): void {
    const raw = toRaw(cells);
    const skips = skipped.get(sample);
    const own = (round.value?.outcomes ?? [])
      .filter((outcome) => !skips?.includes(outcome.key))
      .map((outcome) => [outcome.key, raw.get(at(sample, outcome.key))] as const);
    const whole = own.length > 0 && own.every(([, cell]) => cell);
    const now = !whole ? undefined : own.every(([, cell]) => cell?.stored) ? "solid" : "hollow";
    const before = standing.get(sample);
    if (before !== now) {
      if (before) tally[before] -= 1;
      if (now) tally[now] += 1;
      if (now) standing.set(sample, now);
      else standing.delete(sample);
    }
    for (const [outcome, cell] of own)
      if (cell?.source === "paper") onPaper.add(at(sample, outcome));
      else onPaper.delete(at(sample, outcome));
    tally.paper = onPaper.size;
  }

  function put(reading: Reading, stored: boolean): void {
    place(reading, stored);
    cellAt.set(reading.id, at(reading.sample, reading.outcome));
    recount(reading.sample);
  }
  function place(reading: Reading, stored: boolean): void {
    const key = at(reading.sample, reading.outcome);
    if (reading.take > 1) {
      if (reading.value !== null) cells.get(key)?.again.push(reading.value);
      return;
    }
    if (reading.kind === "withdrawn") cells.delete(key);
    else
      cells.set(key, {
        id: reading.id,
        kind: reading.kind,
        value: reading.value,
        words: reading.words,
        responses: reading.responses,
        reason: reading.reason,
        source: reading.source,
        device: reading.device,
        again: cells.get(key)?.again ?? [],
        stored,
      });
  }

  async function showRefused(): Promise<void> {
    if (!round.value) return;
    refused.value = (await waitingFor(person)).filter((row) => row.refused && row.trial === trial);
  }

  const stop = onSettled(({ rows, odd: found }) => {
    for (const one of found) {
      const [sample, outcome] = cellAt.get(one.id)?.split("/") ?? [];
      const whose = round.value?.samples.find((each) => each.id === sample);
      const what = round.value?.outcomes.find((each) => each.key === outcome);
      if (whose && what) odd.value.push({ id: one.id, sample: whose, outcome: what, says: one.says });
    }
    for (const row of rows) {
      const key = cellAt.get(row.id);
      const cell = key === undefined ? undefined : cells.get(key);
      if (!key || cell?.id !== row.id) continue;
      cell.stored = true;
      recount(sure(key.split("/")[0]));
    }
    void showRefused();
  });
  onUnmounted(stop);

  const cellOf = (sample: RoundSample, outcome: Outcome) => cells.get(at(sample.id, outcome.key));

  async function write(
    sample: RoundSample,
    outcome: Outcome,
    said: How & {
      kind: Reading["kind"];
      value?: number | null;
      words?: string;
      responses?: (number | null)[] | null;
    },
    take = 1,
  ): Promise<void> {
    const reading: Reading = {
      id: crypto.randomUUID(),
      round: sure(round.value).id,
      sample: sample.id,
      outcome: outcome.key,
      kind: said.kind,
      value: said.value ?? null,
      words: said.words ?? "",
      responses: said.responses ?? null,
      reason: said.reason ?? (allowed.has(sample.id) ? BESIDE : ""),
      source: said.source ?? (paper.value ? "paper" : "typed"),
      device: said.device ?? "",
      take,
      taken_at: momentOf(sample).toISOString(),
    };
    const before = cellOf(sample, outcome);
    if (take === 1) undoable.value.push({ sample, outcome, before });
    odd.value = odd.value.filter((one) => one.id !== before?.id);
    put(reading, false);
    try {
      await keep({
        kind: "reading",
        body: reading,
        id: reading.id,
        lane,
        trial,
        person,
        round: reading.round,
        called: calledOf(sample, outcome, reading),
        given_at: rightNow().toISOString(),
      });
    } catch {
      // Nothing may look kept that is not: a full or forbidden store is said at once.
      if (before) cells.set(at(sample.id, outcome.key), before);
      else cells.delete(at(sample.id, outcome.key));
      recount(sample.id);
      noRoom.value = `${sample.code} was not kept: this device has no room to keep it, or does not allow it.`;
    }
  }

  /** Take the last reading back; what stood there before stands again.  Nothing is erased: both stay in the
   * log.
   */
  async function undo(): Promise<{ sample: RoundSample; outcome: Outcome } | undefined> {
    const last = undoable.value.pop();
    if (!last) return undefined;
    const { sample, outcome, before } = last;
    const said = before ? { ...before, reason: "undone" } : { kind: "withdrawn" as const, reason: "undone" };
    await write(sample, outcome, said);
    undoable.value.pop();
    return { sample, outcome };
  }

  /** Read it once more, beside what was read before. */
  const retest = (sample: RoundSample, outcome: Outcome, given: Given, how?: How) =>
    write(sample, outcome, saidOf(given, how), 2 + (cellOf(sample, outcome)?.again.length ?? 0));
  const letStand = (id: string) => (odd.value = odd.value.filter((one) => one.id !== id));

  const isDone = (sample: RoundSample) =>
    askedOf(sample, sure(round.value).outcomes).every((outcome) => cellOf(sample, outcome));
  const counts = computed(() => ({
    solid: tally.solid,
    hollow: tally.hollow,
    rest: (round.value?.samples.length ?? 0) - tally.solid - tally.hollow,
  }));
  const fromPaper = computed(() => tally.paper > 0);

  return {
    round,
    open,
    cellOf,
    write,
    undo,
    undoable,
    isDone,
    counts,
    fromPaper,
    refused,
    noRoom,
    showRefused,
    reached,
    held,
    paper,
    seenOn,
    seenThen,
    seenSays,
    momentOf,
    isOutside,
    ask,
    asking,
    odd,
    retest,
    letStand,
  };
}

export type RoundAtWork = ReturnType<typeof useRound>;
