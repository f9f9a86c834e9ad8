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

/** Several questions at the intake as one line: how many, and what about. */
export const atTheIntake = (reasons: readonly string[]) =>
  `${reasons.length} things to ask at the intake: ${reasons.map(shortly).join(", ")}`;
/** "Meter tails: still to enter: the csa ..." and "Ze is not entered yet" by what they are about. */
const shortly = (reason: string) => reason.replace(/: still to enter:.*$/, "").replace(/ is not entered yet$/, "");
