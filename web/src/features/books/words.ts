export const BOOKS = {
  compareAnotherStandard: "Compare with another standard",
  sameJobUnder:
    "The same job under another standard, check by check. Nothing changes until you apply a copy to the job. Each book holds for its own country: which one applies is for the law and the distributor to say.",
  compared: "compared with",
  ownTables: "your own tables",
  jobAlreadyUses: "The job already uses this one: choose another, or add a pack.",
  workingJobOut: "Working the job out under the other standard",
  noVerdictDiffers: "No verdict differs between the standards.",
  makeWhatIf: "make a what-if copy under it …",
  partJob: "part of the job",
  openCircuit: "open the circuit",
  notRequired: "not required",
  informationOnly: ", for information only",
} as const;
