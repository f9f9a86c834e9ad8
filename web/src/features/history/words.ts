export const HISTORY = {
  history: "History",
  everyChangeSaved: "Every change, as saved. Undo affects only your own changes; other people’s stay.",
  unsentChangesCome: "Unsent changes come on top of these.",
  nothingHasBeen: "Nothing has been changed yet.",
  noVisibleChange: "no visible change",
  now: "as it is now",
  goBackHere: "go back to here",
  version1Created: "version 1, as created or opened from a file",
  jobReturnsHow:
    "The job returns to how it was then, as a new version. No history is lost and it can be undone, but other people’s later changes are undone too.",
} as const;
