/** Sentences about what was wrong, each at the field it belongs to. */
export interface Problem {
  at: string;
  says: string;
  /** Whether it is done all the same once somebody says so. */
  asks?: boolean;
}

const USUAL: Record<number, string> = {
  401: "Please sign in first.",
  403: "You may not do that here.",
  404: "There is nothing here, or it is not yours to see.",
  429: "That was too often in a short time. Wait a few minutes, then try again.",
};

/** What is said where the server failed: it may have stored what was sent, or not. */
const FAILED =
  "Something went wrong on the server. Whether it kept what you sent cannot be told from here: look before you do it again.";

/** The server understood and turned it down; nothing was stored. */
export class Declined extends Error {
  readonly problems: Problem[];
  /** Whether the server said why, in a sentence of its own. */
  readonly explained: boolean;
  constructor(
    readonly status: number,
    problems: Problem[],
  ) {
    super(
      problems[0]?.says ??
        USUAL[status] ??
        (status >= 500 ? FAILED : "The server turned this down; nothing was stored."),
    );
    this.explained = problems.length > 0;
    this.problems = this.explained ? problems : [{ at: "", says: this.message }];
  }
}

/** What says to the server that words are to be kept as they are, though they tell a treatment. */
export const ANYWAY = { "X-Said-Anyway": "yes" };

/** The server could not be reached. */
export class Unreachable extends Error {
  constructor() {
    super("No connection to the server. Check the network, then try again.");
  }
}

/** All problems of an error, whatever it is. */
export function problemsOf(error: unknown): Problem[] {
  if (error instanceof Declined) return error.problems;
  return [{ at: "", says: error instanceof Error ? error.message : String(error) }];
}

/** The first sentence about the field at that path, or undefined. */
export function saysAt(problems: readonly Problem[], at: string): string | undefined {
  return problems.find((problem) => problem.at === at)?.says;
}
