/** The sample that the square of a tag leads to: its address ends in /s/ and the sample's id, on whichever
 * host it was printed for.
 */
const TAG = /^https?:\/\/[^/]+\/s\/([0-9a-f]{8}(?:-[0-9a-f]{4}){3}-[0-9a-f]{12})$/;

export const sampleIn = (text: string): string | null => TAG.exec(text.trim())?.[1] ?? null;
