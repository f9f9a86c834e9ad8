import type { Load } from "../../api/types";

/** What the fixes of a circuit say where there is none to show. */
export const FIXES = {
  nothing: "Nothing to fix: this circuit meets every check with these inputs.",
  unknown: "Enter what is missing first: the checks that are not known name it.",
  none: "No single change fixes this circuit. Try a larger sub-main, a smaller load or splitting it.",
} as const;

export const CHECKS = {
  checks: "Checks",
  checksOrderThey: "Checks, in the order they are done",
  informationOnly: "· for information only",
  tableValueStill: "† table value still to be checked",
} as const;

export const CIRCUIT_DETAILS = {
  otherDetails: "Other details",
  device: "Device",
  cable: "Cable",
} as const;

export const CIRCUIT = {
  hardest: "These figures are for stage",
  stages: "all stages",
  circuitNoLonger: "This circuit is no longer in the job.",
  ifRemovedJust: "If it was removed just now, Ctrl+Z or the history brings it back.",
  backAttentionList: "back to the attention list",
  designAidVerdict:
    "Design aid: a verdict covers these checks with these inputs only. Hatched inputs are assumed; † is a table value still to be checked.",
  workingOut: "Working it out …",
  size: "size it",
} as const;

export const ENDS = {
  title: "Ends and boxes",
  say: "Ends and boxes, from the board on. Every check is made to each end; the worst counts.",
  at: "at",
  metres: "from the board",
  drop: "volt drop",
  fault: "earth fault, least",
  end: "an end of the run",
  box: "box",
  drawn: "drawn",
} as const;

export const CUT_IN = {
  title: "A board goes in here",
  say: "The first part of the cable feeds the new board. What was behind, loads and all, starts from a way of it, with the same device and cable.",
  metres: "How far along this span, in m",
  name: "What the board is called",
  needsName: "Give the board a name.",
  after:
    "Then look at the device of the feed and at the ways of the new board: both have the same device now. Isolate and prove dead before the cable is cut.",
  yes: "put it in",
} as const;

export const DEVICE_WORDS = {
  deviceRatingType: "Device: rating, type, kind",
  b32Rcbo30ma: "b32 rcbo 30mA 6kA",
} as const;

export const LANES = {
  current: "Current",
  izSpan: "Iz by span",
  voltDrop: "Volt drop",
  earthLoop: "Earth loop",
  notKnownYet: "not known yet: an input is missing",
} as const;

export const ON_SITE = {
  testResults: "Test results",
  whatTesterShould: "what the tester should read, what it read, and what that means",
  prospectiveFaultCurrents: "Prospective fault currents",
  maximumLength: "Maximum length",
} as const;

export const PROFILE = {
  runSpanSpan: "The run, span by span",
  cableRunDrawn: "The cable run is drawn here to scale once every span has a length.",
  readProfileAlong: "Read the profile along the run",
} as const;

export const SIZE_IT = {
  routeDeviceLoad: "Route, device and load stay as they are.",
  tryingSizes: "Trying the sizes",
  leave: "leave as is",
} as const;

export const SPAN_LINE = {
  otherCable: "another cable from here",
  boardGoesIn: "board here …: one goes in along this span",
  branchFromEnd: "Branch from the end of this span",
  atEnd: "what is at its end",
  whatAtEnd: "What is at its end: a box, a joint, a switch",
  nothingNamed: "an unnamed point",
  leavesFrom: "where it leaves from",
  fromBoard: "from the board",
  spans: "Spans",
  spansRun: "Spans of the run",
  moveSpanTowards: "Move the span towards the board",
  moveSpanTowardsFar: "Move the span towards the far end",
  moreSpan: "More of this span",
  noSpansYet: "No spans yet: add one, or type a length in the sentence above.",
  spanName: "span name",
  whereOwnWords: "Where it is, in your own words",
  spanLength: "span length",
  lengthSpan: "Length of the span",
  installationMethod: "Installation method",
  lengthSurroundedThermal: "Length surrounded by thermal insulation",
  leaveRouteKeep: "leave the route, keep its values",
  alongsideAnotherCircuits: "alongside another circuit’s span, making a shared route",
  installedDifferently: "installed differently",
  circuitsGroupedIncluding: "Circuits grouped, including this one",
  howTheyGrouped: "how they are grouped",
  notPossibleHere: "not possible here",
  enterFinish: "Enter to finish.",
  route: "in a route",
} as const;

export const DRIVER = {
  elv_volts: "driver output",
  elv_length: "length behind the driver",
  elv_csa: "csa behind the driver",
  elv_drop: "drop behind the driver",
} as const;

export const OWN_CABLE = {
  fromHere: ". From here on the cable is ",
  csa: "own csa",
  csaTitle: "Line conductor csa of this cable",
  family: "own type",
  familyTitle: "Type of this cable",
  cores: "own cores",
  coresTitle: "Cores of this cable",
  cpc: "own cpc",
  cpcTitle: "What forms the cpc of this cable",
  joint: "joint",
  jointTitle: "How it is joined to the cable before it",
  reached: "joint access",
  reachedTitle: "Whether the joint can be reached for inspection",
  overload: "own overload",
  overloadTitle: "Overload protection of this cable",
  short: "own fault protection",
  shortTitle: "At most 3 m to its fuse, run so that faults, fire and danger are unlikely",
  back: "the cable before it here too",
} as const;

export const STATEMENT = {
  nameBoardChart: "Name on the board chart",
  phasesCircuit: "Phases of the circuit",
  radialRing: "Radial or ring",
  phase: "Phase",
  cableSizeThen: "Cable: size, then type",
  of10Flat10: "10 flat, 10/4 singles",
  boardFed: "Board it is fed from",
  section: "RCD of the board it is behind",
  boardFeedsSub: "Board it feeds, for a sub-main",
  ratingWhat: "Rating and what it is",
  of92Kw: "9.2 kW shower",
  anotherLoad: "another load",
  lengthRun: "Length of the run",
  lengthRunOne: "Length of the run, as one span for now",
  setHowEach: "Set how each span is installed under the drawing.",
  zeExternalEarth: "Ze, the external earth-fault loop impedance",
  howKnown: "how it is known",
} as const;

export const SOURCE = {
  deviceOf: "The device of the circuit ",
  direction: "Direction of the device",
  joins: "How it is connected",
  lossOfNetwork: "When the mains fails",
  battery: "Battery",
  makerRcd: "RCD type its maker requires",
  usualFault: "1.5 times its rating",
  atMost: " Its maximum fault current is ",
  faultAmps: "Maximum fault current, from its maker",
  without: " With the mains off it supplies ",
  boardKept: "Board it supplies with the mains off",
  parted: "What disconnects it from the mains",
  earth: "What its neutral is connected to with the mains off",
  ra: "RA of that electrode",
  off: "Its own cut-off time at a fault",
  least: "Minimum fault current, from its maker",
} as const;

export const TAKEN_OFF = {
  everyEnd: "at whichever end is checked",
  notPlaced: "not placed yet: counts in full at each end",
  mainWay: "along the main way",
  whereStands: "Where it stands",
  pointsAlongRun: "Points along the run: ",
  metresBoardBlank: "Metres from the board; blank for the far end",
  ringItselfSpur: "On the ring itself, or by a spur",
} as const;

export const WAYS_OUT = {
  eachCheckedAcross:
    "Each checked across the whole job. Cheapest first, at the firm’s prices, or made-up ones until you load your own (Materials). Prices are without VAT.",
  workingThemOut: "Working them out",
  noneCanPass: "None can pass until the missing values are entered; with the first ones nothing fails.",
  noSingleChange: "No single change fixes it; these come nearest.",
  enterThemSurvey: "enter them at the survey",
  use: "use it",
  leave: "leave as is",
} as const;

/** How a spur of a ring is protected. */
export const SPUR: Record<Load["spur"], string> = {
  no: "on the ring",
  fused: "by a fused spur",
  unfused: "by an unfused spur",
};
