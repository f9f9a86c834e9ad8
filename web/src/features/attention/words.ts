/** Where nothing is left to put right. */
export const DONE = {
  say: "Nothing left to put right with these inputs. Next:",
  issue: "issue a revision",
  or: ", or",
  print: "print the circuit schedule",
} as const;

/** Where there is no circuit yet. */
export const FIRST = {
  start: "No circuits yet. Start with the",
  survey: "survey (supply, fuse, tails)",
  or: ", or press",
  type: "and type a circuit:",
  line: "cooker 7 kW b32 rcbo 6 flat 12 m clipped",
} as const;
