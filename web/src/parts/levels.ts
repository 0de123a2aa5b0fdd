/** How sure a verdict is, in words. */
export const LEVELS: Record<string, string> = {
  clear: "Clear",
  leaning: "Leaning",
  equal: "As good as equal",
  too_close: "Too close to call",
  unreplicated: "Unreplicated",
  spoiled: "Spoiled",
  undirected: "Told without a winner",
};
