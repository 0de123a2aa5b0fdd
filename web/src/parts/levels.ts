/** How sure a verdict is, in the core's words. */
import words from "../../../cases/words.json";

export const LEVELS: Record<string, string> = words.levels;
