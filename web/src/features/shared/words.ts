export const SHARED = {
  oneMoment: "One moment …",
  linkNoLonger: "This link no longer works",
  hasExpiredFirm: "It has expired or the firm has cancelled it. Ask them for a new one.",
  draftNotIssued: "This is a draft: not issued, not signed.",
  noCircuit: "No circuit.",
  basedTableValue: "based on a table value still to be checked",
  basedTableValueStill:
    "† based on a table value still to be checked against the printed standard. Assumed: based on a value nobody has measured.",
} as const;
