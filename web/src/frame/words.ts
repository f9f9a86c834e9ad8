import type { ClashPoint } from "../api/types";

/** Where a job does not open any more. */
export const GONE = "It may have been deleted (Jobs, deleted, kept for 30 days) or belong to another firm of yours.";

/** Where the server has been away for long. since: the time of day; keeps: whether unsent changes outlive the page. */
export const longAway = (since: string, unsent: number, keeps: boolean) => ({
  head: `No connection since ${since}.`,
  text: !keeps
    ? "Keep this page open: this browser cannot keep your changes, and they are lost if it closes before they are sent."
    : unsent > 0
      ? `Carry on: ${unsent} ${unsent === 1 ? "change is" : "changes are"} safe in this browser and will be sent. Do not clear its data or use another device meanwhile.`
      : "Carry on: what you change is kept in this browser and will be sent.",
});

export const JOB_FRAME = {
  close: "close",
  backJobs: "back to the jobs",
  storedOlderVersion: "Stored by an older version, and not taken by this one:",
  noResultsYet: "No results yet.",
  everythingEnteredHere: "Everything you entered is here: correct what is named, or save the job as a file from Jobs.",
  tree: "the tree",
  serverCannotReached: "The server cannot be reached",
  tryingAgainEvery:
    "Trying again every few seconds; the job opens when it answers. Unsent changes are kept in this browser.",
  tryNow: "try now",
  loadsSpansGo: "Its loads and spans go with it. Ctrl+Z brings it back, and so does the history of the job.",
} as const;

export const KEY_LIST = {
  keys: "Keys",
  everythingCanDone: "Everything can be done from the keyboard.",
} as const;

export const PALETTE = {
  goSay: "Go to, or say",
  circuitBoardRoute: "A circuit, board, route, view, table, clause or command; or a new circuit in one line.",
  nameNumberLine: "Name, number or line",
  nothingNameStill: "Nothing by that name; still reading it as a circuit.",
} as const;

export const PROPOSAL_BAR = {
  submittedDesignerWill: "Submitted: a designer will find it under What if.",
  proposal: "Your proposal",
  proposingChanges: "Proposing changes.",
  changeWhatLike: "Change what you like: nothing is saved to the job until a designer accepts it.",
  whatProposalCalled: "What the proposal is called",
  what: "what it is for",
  keptHere: "kept in this browser, not submitted.",
  keptNowhere: "not submitted. This browser cannot keep them: submit before you close the page.",
  discardProposal: "Discard the proposal?",
  change: "Its change is",
} as const;

export const SAVE_STATE = {
  keptHere: "kept in this browser",
  inPageAlone: "in this page alone: do not close it",
  workedOutHere: "worked out on this device",
  gettingReady: "getting ready to work it out on this device",
} as const;

export const SAVE_TROUBLE = {
  earlierRules: "This page works by earlier rules than the server: reload it, so that it works without a signal.",
  reload: "reload",
  browserCannotKeep: "This browser cannot keep anything now.",
  storageFullSwitched:
    "Its storage is full or switched off: changes are still sent, but are lost if the page closes before they are saved.",
  notSaved: "Not saved",
  signAgain: "Sign in again",
  wereSignedOut: "You were signed out. Sign in to go on where you were.",
  oneEdit: "One edit was",
  notAccepted: "Not accepted",
  notAcceptedServer: "Not accepted by the server. They stay in this browser until you decide.",
  tryAgain: "try again",
  saveFile: "save as file",
  discardGood: "discard for good",
  someoneElseChanged: "You and someone else changed the same thing",
  nothingHasBeen: "Nothing has been overwritten. Choose for each; all other changes are merged.",
  saveThese: "save with these",
} as const;

export const SIDE = {
  viewsCircuits: "Views and circuits",
  widthColumn: "Width of the column",
  dragMakeColumn: "Drag to make the column wider; double-click for its usual width",
} as const;

export const THUMB_BAR = {
  next: "Next",
  nothingNeedsAttention: "nothing needs attention with these inputs",
} as const;

export const TOP_BAR = {
  jobs: "Jobs",
  more: "More",
  signOutChanges: "Sign out with changes unsent?",
} as const;

export const TREE = {
  opening: "Opening …",
  installation: "Installation",
  site: "On site",
  leastMargin: "least margin",
} as const;

export const VIEWS = {
  working: "The working",
} as const;

/** Why two edits clash. */
export const WHY: Record<ClashPoint["why"], string> = {
  value: "",
  gone: "has been removed; your change to it cannot be made",
  changed: "you removed it; someone else has changed it",
  place: "has been moved",
};
