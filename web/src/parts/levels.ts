/** How sure a verdict is, in words. */
export const LEVELS: Record<string, string> = {
  clear: "Clear",
  depends: "It depends",
  leaning: "Leaning",
  equal: "As good as equal",
  too_close: "Too close to call",
  unreplicated: "Unreplicated",
  nothing: "Nothing to tell apart",
  spoiled: "Spoiled",
  undirected: "Told without a winner",
};
