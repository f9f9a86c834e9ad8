/** What the view of all boards says. */
export const GLANCE = {
  title: "Every circuit at a glance",
  key: {
    scale: "Each bar is the share used of what is allowed; the vertical line is the limit.",
    amps: "Amps: filled to Ib, the tick is In, the limit is Iz.",
    volts: "Volt drop: the sub-mains’ part is darker.",
    loop: "Zs: the tick is 80 %, for measured values.",
  },
  sort: "Order",
  byTree: "as fed",
  byMargin: "least margin first",
  print: "print on one page",
  none: "No circuits yet. Open a board above and type its first circuit.",
  waiting: "Working out every circuit …",
  circuit: "circuit",
  verdict: "verdict",
  nearest: "nearest its limit",
  heads: { amps: "Ib, In, Iz", volts: "volt drop", loop: "Zs" },
  /** Of a ring the Iz is that of one leg. */
  leg: "a leg",
  /** Before the figures, where the head does not say it. */
  names: { amps: "current", volts: "volt drop", loop: "Zs" },
} as const;

/** In the place of a search that waits for changes that are not sent yet. */
export const ONCE_SAVED = "Available once your last changes are saved.";

/** Said of a bar to whoever does not see it. */
export const used = (name: string, share: string) => `${name}: ${share} of what is allowed`;
export const beforeSaid = (share: string) => `, ${share} by the sub-mains`;

export const BALANCE = {
  balancePhases: "balance the phases",
  phasesBalanced: "Phases balanced",
  tryingCircuitsEvery: "Trying the circuits on every phase …",
  noBetterBalance: "No better balance was found.",
  use: "use it",
  leave: "leave as is",
} as const;

export const BOARD = {
  before: "put a board between the meter and this one",
  newBefore: "New main board",
  takeOut: "take this board out: its feed runs on as",
  staysIn: "It cannot be taken out of its run.",
  numbersStay: "Numbers stay with their cables:",
  boardNoLonger:
    "This board is no longer in the job. If it was removed just now, Ctrl+Z or the history brings it back.",
  origin: "At the origin",
  earthingNotEntered: "Earthing not entered",
  checksBoard: "Checks of the board",
  prospectiveFaultCurrents: "Prospective fault currents",
  allDetailsBoard: "All details of this board",
  removeBoard: "remove this board …",
  circuitsGoCtrl: "Its circuits go with it. Ctrl+Z brings all of it back, and so does the history of the job.",
} as const;

export const BOARDS = {
  boards: "Boards",
  eachOpensGrid: "Each opens as a grid of its ways, to type straight into.",
  addBoard: "add a board",
} as const;

export const GRID = {
  chooseSeveralRows: "Choose several rows first (Shift and the arrows), then fill down.",
  ways: "Ways",
  fillDown: "fill down",
  cablePlaceBut: "Cable in place but not connected: it carries nothing and is not checked",
  notConnected: "not connected",
  shiftSeveralPaste: "Shift ↑ ↓ several · paste rows or lines",
  dragAnotherWay: "Drag to another way, or to another board at the left",
  spareWay: "A spare way",
  spareWay2: "spare way",
} as const;

export const LEAST_COST = {
  cheapestSizesWhole: "Cheapest sizes for the whole job",
  tryingSizesEvery: "Trying sizes for every circuit",
  noSizeFixes: "No size fixes",
  notKnownWant: "Not known, for want of an entry:",
  behindFeedOne: "Behind a feed that is one of these:",
  sizesEnteredCheapest: "The sizes entered are the cheapest.",
  theseWereFound: "These were found as a set: leave some out and the rest may fail or cost more than need be.",
} as const;
