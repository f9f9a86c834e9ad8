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

export const ADVICE_LIST = {
  advice: "Advice",
  adviceDecidesNothing:
    "Advice decides nothing and knows only what was entered. The regulations and a competent person decide.",
  doesNotApply: "does not apply",
  whyDoesNot: "Why it does not apply",
  whyDoesNotApply: "why it does not apply",
  showAgain: "show it again",
} as const;

export const ATTENTION = {
  hideNote: "hide this note",
} as const;

export const FIRST_VISIT = {
  threeThingsTry: "Three things to try",
  madeUpHouse: "A made-up house to try things in. You cannot break anything:",
  ctrlZ: "Ctrl Z",
  changeHere: "This circuit fails. Each word of it can be changed: click the cable, and take a larger size.",
  changed: "Changed, and worked out again at once. Each word can be changed like that.",
  takeBack: "with these inputs. Ctrl Z takes the change back.",
  seeWhy: "open it: which span limits it, and the table cell of every figure",
  towelRail600w: "towel rail 600W b6 rcbo 30mA 1.5 flat: masonry 4, loft 3 under quilt",
  whatIf: "what if",
  zeCameOut: "Ze came out higher, or insulation were added: a copy next to the job, to apply or discard.",
  hide: "hide this",
} as const;

export const READ_ON_SITE = {
  testResultsQuery: "Test results to query",
} as const;

/** Over each list, by its kind. */
export const ATTENTION_TITLES = {
  short: "Fails: must be put right",
  not_known: "Not known yet: information missing",
  close: "Marginal: little in hand",
  assumed: "Assumed: to be measured",
  confirm: "Still to confirm: holds nothing back",
} as const;

/** Before what is the matter, where it is so at a stage of the job that is not the last. */
export const atStage = (name: string) => `at ${name}`;
