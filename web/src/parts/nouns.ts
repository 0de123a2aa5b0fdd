/** What is counted, by one and by several.  The server makes the plural; nothing here adds an s. */

export interface Noun {
  one: string;
  many: string;
}

export const SAMPLE: Noun = { one: "sample", many: "samples" };

/** The word as it stands behind a number: "1 tank", "2 tanks". */
export const wordFor = (many: number, noun: Noun): string => (many === 1 ? noun.one : noun.many);

/** So many of it, thousands set apart. */
export const counted = (many: number, noun: Noun): string =>
  `${many.toLocaleString("en")} ${wordFor(many, noun)}`;

/** What the samples of a trial are called. */
export const sampleOf = (trial: { sample_word: string; sample_words: string }): Noun => ({
  one: trial.sample_word,
  many: trial.sample_words,
});
