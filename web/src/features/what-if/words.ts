/** Beside a search that waits for changes that are not sent yet. */
export const ONCE_SAVED = "Available once your last changes are saved.";

export const NEW_COPY = {
  firstChooseWhat: "First choose what the copy changes.",
  newCopy: "a new copy …",
  newCopy2: "A new copy",
  whatChanges: "what changes",
  circuits: "Circuits",
  routes: "Routes",
  supply: "The supply",
  newValue: "new value",
  addChange: "add the change",
  workOut: "work it out",
} as const;

export const SMALLEST_BREAKS = {
  nearestFailure: "Nearest failure",
  smallestChangeWould: "The smallest change that would make each circuit fail.",
  jobHasChanged: "The job has changed since.",
  fails: "fails as it is",
  nothingLikelyMakes: "nothing likely makes it fail",
} as const;

export const WHAT_IF = {
  whatIf: "What if",
  copiesJobEach: "Copies of the job, each with its own changes, side by side. The job changes only when you apply one.",
  underAnotherStandard: "under another standard",
  workingCopiesOut: "Working the copies out",
  sideSide: "side by side",
  noneChanges: "none changes",
  applyJob: "apply to the job",
  copyGoesJob: "The copy goes; the job stays.",
  not: "not in it",
} as const;
