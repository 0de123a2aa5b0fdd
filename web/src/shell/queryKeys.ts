import type { MaybeRefOrGetter } from "vue";

/** Under which name what the server told is kept, so that whoever changes it can say what is to be asked
 * again.  A linter rule keeps key lists out of all other files. */
type Part = MaybeRefOrGetter<string | number | boolean | null | undefined>;
const under =
  (name: string) =>
  (...parts: Part[]) =>
    [name, ...parts] as const;

export const keys = {
  agreement: under("agreement"),
  baseline: under("baseline"),
  board: under("board"),
  bringing: under("bringing"),
  bringings: under("bringings"),
  conditions: under("conditions"),
  course: under("course"),
  devices: under("devices"),
  doorstep: under("doorstep"),
  found: under("found"),
  gauge: under("gauge"),
  guesses: under("guesses"),
  held: under("held"),
  helper: under("helper"),
  invitation: under("invitation"),
  known: under("known"),
  labelSheets: under("label-sheets"),
  leaving: under("leaving"),
  light: under("light"),
  log: under("log"),
  mailbox: under("mailbox"),
  me: under("me"),
  methodsKept: under("methods-kept"),
  mix: under("mix"),
  panel: under("panel"),
  panelResult: under("panel-result"),
  panels: under("panels"),
  tastings: under("tastings"),
  patterns: under("patterns"),
  people: under("people"),
  photos: under("photos"),
  place: under("place"),
  practice: under("practice"),
  prepared: under("prepared"),
  progress: under("progress"),
  report: under("report"),
  sites: under("sites"),
  sample: under("sample"),
  secondCodes: under("second-codes"),
  sharedQuestions: under("shared-questions"),
  shelf: under("shelf"),
  today: under("today"),
  sums: under("sums"),
  together: under("together"),
  tokens: under("tokens"),
  training: under("training"),
  trainingSet: under("training-set"),
  tray: under("tray"),
  verdict: under("verdict"),
  weather: under("weather"),
};

/** What is kept of one trial under `name`. */
export const ofTrial = (name: string, id: string) => under(name)(id);
