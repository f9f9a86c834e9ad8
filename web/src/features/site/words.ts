import type { IsolationRecord, Observation } from "../../api/site";

/** What the views on site say where nothing is there yet, or where something waits. */
export const NOTHING = {
  cables: "No cables yet. Each circuit appears here once its cable and lengths are entered.",
  terminations: "No terminations yet. Choose a cable on a circuit, and its cores, sleeves and glands are listed here.",
  materials: "Nothing to count yet. Materials are counted from circuits, boards and routes as you enter them.",
  tests: "No circuits to test yet. Tests follow from the design: add a circuit first.",
  existing:
    "No existing circuits yet. Open a circuit, then Other details, and tick existing. Inspection notes can be added below at any time.",
  place:
    "Choose what you will work on. You get every point to lock off and the steps in order; nothing can be skipped.",
} as const;
export const TO_BOARDS = "to the boards";

export const WAITING = {
  materials: "Waiting for your last changes to be sent. Materials are counted from the saved design.",
} as const;

/** Above the live tests: until the box is ticked what opens them, and always how many dead tests are open. */
export const liveTests = (left: number, open: boolean) =>
  [
    open ? "" : "Live tests open once you tick the box above.",
    left > 0 ? `${left} dead ${left === 1 ? "test is" : "tests are"} not done yet.` : "",
  ]
    .filter(Boolean)
    .join(" ");

/** What to test after terminating: every cable, and what differs for some. */
export const AFTER_ALL = "After terminating, check on every cable:";
export const AFTER = "Then check:";

export const CUTTING_PLAN = {
  cuttingPlan: "Cutting plan",
  howMuchEach:
    "How much of each cable, and which piece comes from which drum. Bars are to scale; what is dashed is left over.",
  drumLengthsBuy: "Drum lengths you buy, separated by “;”",
  leastBuy: "This is the least to buy.",
} as const;

export const ELSEWHERE = {
  enterWhereTaken: "Enter where it was taken.",
  testAnotherPoint: "A test at another point",
  anotherPoint: "Another point",
  pointNotDesign: "At a point not in the design. It is judged by what its test may show, and listed with the others.",
  overInstrumentsRange: "over the instrument’s range; for an RCD, no trip",
} as const;

export const ENDS = {
  loadingTerminations: "Loading the terminations …",
  terminations: "Terminations",
  coresUseCurrent:
    "Cores by use, in current colours. A green-yellow core is only ever a protective conductor. Sleeve both ends the same.",
  threeCores: "In three-core armoured cables, by your firm's rule,",
  caution: "Caution.",
  notChecked: "not checked",
  noSpareCore: "no spare core for it",
  oldColourNot: "its old colour is not known here: prove it by test",
  oneCore: "One core is",
} as const;

export const EXISTING = {
  loadingExistingInstallation: "Loading the existing installation …",
  existingInstallation: "Existing installation",
  nothingFoundDangerous: "Nothing found dangerous or potentially dangerous",
  unsatisfactory: "Unsatisfactory",
  suggestedFactsUsual:
    "Suggested from the facts, with the usual code. The person responsible decides, and may change a grade with a reason.",
  changeGrade: "change the grade",
  grade: "Grade",
  reason: "The reason",
  saveGrade: "save the grade",
  putRightRemove: "put right: remove it",
  workingThemOut: "Working them out",
  noChangeOffered: "No change offered here fixes it.",
  basisInspection: "Basis of the inspection",
  changesSinceInstallation: "Changes since installation",
  whatChanged: "What changed",
  howAboutWhen: "How, and about when",
  howAboutWhen2: "how, and about when",
  limitations: "Limitations",
  whatNotLooked: "What was not looked at, and why",
  whatWhy: "what, and why",
  agreed: "Agreed with",
  agreed2: "agreed with",
  remove: "remove it",
  visualInspection: "Visual inspection",
  what: "What",
  where: "Where",
  describe: "Describe it",
  makeSafeNow: "Make it safe now or have it made safe, tell the person responsible, and record what was done.",
} as const;

export const ISOLATION = {
  stageFirst: "Choose the stage first: what feeds this place may differ from stage to stage.",
  no: "no",
  isolated: "yes, isolated",
  notIsolated: "yes, not isolated",
  howYouKnow: "then say how you know, or how it is isolated",
  sourceStop: "Stop: touch nothing. Isolate that source first, abandon this record and start a new one.",
  loadingRecords: "Loading the records …",
  safeIsolation: "Safe isolation",
  competentPersonList:
    "For a competent person. The list is only as good as the design: what is not in the job is not on it. Nothing is dead until proved dead at the point of work, with a tester proved before and after.",
  whatMadeDead: "What is to be made dead",
  chooseBoardCircuit: "choose a board, circuit, route or room",
  records: "Records",
  findingEveryPoint: "Finding every point …",
  noCircuitJob: "No circuit in this job is there. That does not prove there is none.",
  staysLiveMay: "Stays live, or may do",
  goesDead: "Goes dead with it",
  startRecord: "start the record",
  notDeadStop: "Not dead. Stop: touch nothing. Find what feeds it, abandon this record and start a new one.",
  notProvedDead: "Not proved dead yet:",
  abandonRecordReason: "Abandon this record, with the reason",
  abandon: "abandon it",
  nextStep: "Next step",
  stillLive: "still live",
  doNotSwitch: "Do not switch on",
  onlyPersonNamed: "Only the person named here may remove it.",
} as const;

export const MATERIALS = {
  currency: "Currency",
  vat: "VAT, empty for none",
  moneySaved: "Saved: amounts are shown so from now on.",
  notCounted: "Not counted",
  materials: "Materials",
  merchantNotAnswering: "The merchant is not answering: stock not known.",
  noMerchantSet: "No merchant is set up.",
  estimatedUsualSizes: "† estimated from usual sizes, spacings and stock lengths: check before ordering.",
  notSentYet: "; not sent yet",
  eachPutThrough: "each put through every check",
  workingOut: "Working it out …",
  noOtherSize: "No other size of this cable in stock.",
  use: "use it",
  meetsEveryCheck: "Meets every check with these inputs; nothing else gets worse.",
  doesNotMeet: "Does not meet every check.",
  prices: "Prices",
  firmUsesOwn: "The firm uses its own price list.",
  pricesMadeUp: "Prices are made up: use them to compare, not to quote.",
  fixesCheapestSizes:
    "Fixes, cheapest sizes and this list use it. It is a CSV file with the columns item, name, size, price.",
  saveFile: "save as a file",
  priceBook: "Price book",
  loadPriceList: "load a price list",
  madeUpPrices: "The made-up prices are in use again.",
  goBackMade: "go back to the made-up prices",
} as const;

export const PULL = {
  workingOutCable: "Working out the cable list …",
  cableList: "Cable list",
  cablesOnePull: "Cables in one pull share the same routes and go in together; the hardest come first.",
  extraLength: "Extra length",
  extraLengthEach: "Extra length at each end",
  firmsRuleAll: "The firm’s rule, for all its jobs.",
  notConnected: ", not connected",
  notSentYet: "not sent yet",
} as const;

/** A file of an instrument, before it is taken in. */
export const FILE = {
  saved: (count: number) => `${count} ${count === 1 ? "reading" : "readings"} saved.`,
  unread: "This file cannot be read.",
  found: (encoding: string, before: number, count: number) =>
    `${count} ${count === 1 ? "reading" : "readings"} found (${encoding}${before > 0 ? `, ${before} ${before === 1 ? "line" : "lines"} before its table` : ""}). Check what each was read as.`,
  unusedColumns: "Not used, no test is known by this name:",
  means: (cell: string) => `What does ${cell} mean?`,
  heads: ["line", "circuit", "test", "in the file", "read as"],
  allowed: (what: string) => `Not taken. Allowed: ${what}.`,
  bad: (count: number) =>
    `${count} ${count === 1 ? "line is" : "lines are"} not taken, so nothing is saved yet. Correct ${count === 1 ? "it" : "them"} in the file and load it again.`,
  take: (count: number) => `save ${count} ${count === 1 ? "reading" : "readings"}`,
  leave: "do not save",
} as const;

export const READINGS = {
  gone: "No longer in the design",
  goneKept: "Written down about parts that were removed since. Nothing of it is lost.",
  loadingTests: "Loading the tests …",
  testResults: "Test results",
  circuitBoard: "Circuit or board",
  allThem: "all of them",
  workingOutExpected: "Working out the expected values …",
  readingsFile: "Readings from a file",
  file: "From a file",
  csvColumnsCircuit:
    "A CSV file: a column for the circuit, and one for quantity and one for value, or a column for each test (Zs, R1 + R2, IR L–E …). Optional: point, at, temperature, volts, instrument, serial, method, time. You see what each line was read as before it is saved.",
  fileReadings: "File of readings",
  loadFile: "load a file",
  nothingLoaded: "Nothing was loaded:",
  whatTheyPoint: "What they point to",
  likelihoodCausesTried: "Likelihood, of the causes tried:",
  testInstrument: "Test instrument",
  serial: "Serial no.",
  lastCheck: "Its last check, date",
  conductors: "Conductors at",
  practiceInstrumentCircuit: "Practice instrument: circuit connected",
  deadTests: "Dead tests",
  liveTests: "Live tests",
  saveReadingsFile: "save the readings as a file",
} as const;

export const REVISIONS = {
  loadingRevisions: "Loading the revisions …",
  revisions: "Revisions",
  issuingFreezesDesign:
    "Issuing freezes the design with every result, its tables and the site entries. Each revision is numbered and never changes; later changes need a new one.",
  issueDesign: "Issue the design",
  noteWhatWhat: "A note on it: what it is for, what is new",
  notIssuedYet: "Not issued yet. Anything printed is a draft.",
  stands: "as it stands",
  changedSince: "changed since",
  notSignedSupervisor: "Not signed; a supervisor signs.",
  saveFile: "save as a file",
  sealed: "; sealed with the firm’s key",
  notSealed: "; not sealed with a key: issue a new revision",
  checkingMellowSpan: "for checking with mellow-span prove",
  readWorkingSign: "Read its working and sign",
  designHasChanged: "The design has changed since; these links show today’s working, not the issued one.",
  assumedValues: ", assumed values",
  compareRevisions: "Compare revisions",
  revision: "From revision",
  revision2: "To revision",
  nowBuilt: "now, as built",
  comparing: "Comparing …",
  noChanges: "No changes.",
} as const;

export const TEST_ROW = {
  judgedHere: "not sent yet; judged on this device",
  tripped: "RCD tripped",
  trippedDuring: "The RCD tripped during this test, so there is no figure",
  overInstrumentsRange: "over the instrument’s range; for an RCD, no trip",
  photoTerminals: "Photo of the terminals",
  pictureCannotRead: "This picture cannot be read.",
  yesPhoto: "yes, with a photo",
} as const;

/** The grades of what is there. */
export const GRADE_WORDS: Record<Observation["grade"], string> = {
  danger: "Danger present",
  may_become: "Potentially dangerous",
  look: "Needs further investigation",
  improve: "Improvement recommended",
};

/** Where an observation comes from. */
export const SOURCES: Record<Observation["source"], string> = {
  check: "by calculation",
  reading: "by test",
  eye: "visually",
};

/** What was changed since the installation was made. */
export const CHANGES: Record<string, string> = {
  appliance: "larger appliance",
  insulation: "thermal insulation added",
  extension: "an extension",
  use: "change of use",
  other: "something else",
};

/** How far a record of isolation is. */
export const ISOLATION_STATES: Record<IsolationRecord["state"], string> = {
  open: "started: not proved dead",
  dead: "proved dead",
  live: "stopped: found live",
  released: "released",
  given_up: "abandoned",
};

/** What can be made dead. */
export const ISOLATION_KINDS: Record<string, string> = {
  board: "Boards",
  circuit: "Circuits",
  route: "Routes",
  room: "Rooms",
};

/** The groups of the materials list. */
export const GROUPS: Record<string, string> = {
  cable: "Cable",
  devices: "Devices",
  boards: "Boards",
  glands: "Glands and terminations",
  boxes: "Boxes and outlets",
  containment: "Conduit and trunking",
  fixings: "Fixings",
  labels: "Labels",
  earthing: "Earthing and bonding",
};
