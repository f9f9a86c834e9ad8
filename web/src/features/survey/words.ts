export const ASSUMPTIONS = {
  whatAssumed: "What is assumed",
  whatNotMeasured: "What was not measured, and why it matters",
  tryingOtherLikely: "Trying other likely values",
  everySupplyValue: "Every supply value was measured.",
  measureFirstAffects: "measure this first: it affects most verdicts",
  setWorstValue: "Set to the worst value usually declared.",
} as const;

export const INTAKE_DRAWING = {
  ratingServiceFuse: "Rating of the service fuse",
  zeNotEntered: "Ze not entered",
  ipfNotEntered: "Ipf not entered",
  intakeDrawn: "The intake drawn",
} as const;

export const OTHER_SOURCES = {
  otherSources: "Other sources",
  besideNetwork: "In parallel with the mains or instead of it. Each is a load of the circuit it is wired on.",
  networkLost: "Circuits of a board supplied with the mains off are checked for that as well.",
} as const;

export const SURVEY = {
  survey: "Survey",
  supplyIntakeHow: "The supply and intake, and how each value is known. Assumed values stay marked, also on print.",
  jobCalled: "The job is called ",
  jobName: "job name",
  nameJob: "Name of the job",
  supply: "The supply is ",
  earthingArrangement: "Earthing arrangement",
  phases: "Phases",
  u0LineEarth: "U0, line to earth",
  network: "Network",
  zeExternalLoop: "Ze, external loop impedance",
  ipfLineNeutral: "Ipf, line to neutral at the origin",
  serviceFuse: "The service fuse is a ",
  fuseKind: "fuse kind",
  kindServiceFuse: "Kind of service fuse",
  ratingServiceFuse: "Rating of the service fuse",
  csaMeterTails: "Csa of the meter tails",
  lengthTails: "Length of the tails",
  mainEarthingConductor: "The main earthing conductor is ",
  csaEarthingConductor: "Csa of the earthing conductor",
  metalServices: "metal services",
  metalServicesStructure: "Metal services or structure that need main bonding here",
  csaMainBonding: "Csa of the main bonding",
  surgeProtection: "surge protection",
  surgeProtection2: "Surge protection",
  thereBoardCalled: "There is a board called ",
  boardName: "board name",
  nameBoard: "Name of the board",
  numberWays: "Number of ways",
  checksSurvey: "Checks of the survey",
  existingIntakeAdequate: "Is the existing intake adequate?",
  otherDetailsIntake: "Other details of the intake",
  measuringZeIpf:
    "Measuring Ze and Ipf is live work, for a competent person with a suitable instrument, leads and protection. Until then use the distributor's declared maximum, marked as declared.",
  howKnown: "How it is known",
} as const;

/** What is assumed, by its field. */
export const WORD_OF: Record<string, string> = {
  ze: "Ze, external loop impedance",
  ipf: "Ipf, line to neutral at the origin",
  fuse_in: "Rating of the service fuse",
};
