/** Beside what a draft prints: how to get rid of it. */
export const DRAFT = "Issue a revision to remove this mark.";
/** Before the code two prints of the same data have in common; opened, it shows the whole of it. */
export const CHECK_CODE = "Check code";

export const FILES = {
  madeHere: "made on this device, without a signal, and not yet confirmed by the server:",
  print: "print it",
  open: "open it",
} as const;

export const MINOR_WORK = {
  work: "The work",
} as const;

export const PAPERS = {
  loadingDocuments: "Loading the documents …",
  documents: "Documents",
  madeDesignSite:
    "Made from the design and the site entries. Anything assumed, unchecked or missing is marked on every page.",
  someChangesNot: "Some changes are not sent yet: a document shows the design as last saved.",
  typesDocument: "Types of document",
  document: "Document",
  jobNowDraft: "the job as it is now: a draft",
  checkingWhatMissing: "Checking what is missing …",
  missingMarkedSo: "Missing, and marked so on the print:",
  nothingMissing: "Nothing is missing.",
  firstFreeLabel: "first free label on the sheet",
} as const;
