import type { JobLine } from "../../api/types";

/** To whoever may not start jobs. */
export const NO_START =
  "Only designers and supervisors start jobs. Open one below and your changes are kept as a proposal.";
/** Where an address led nowhere. */
export const NO_PAGE = "That page does not exist. Here are your jobs.";

/** What can be done with a job of the list. */
export const MENU = {
  open: "more",
  file: "save as file",
  links: "links for clients",
  archive: "archive",
  back: "move to current jobs",
  remove: "delete",
} as const;

/** How far a job is. */
export function stageOf(job: JobLine): string {
  const revision = job.issued > 0 ? `revision ${job.issued} issued` : "";
  if (job.tested > 0 && job.tested >= job.circuits)
    return [revision, "every circuit has test results"].filter(Boolean).join(", ");
  if (job.tested > 0)
    return [revision, `test results for ${job.tested} of ${job.circuits} circuits`].filter(Boolean).join(", ");
  return [revision, job.on_site ? "on site" : ""].filter(Boolean).join(", ") || "designing";
}

export const CLIENT_LINKS = {
  anyoneLinkCan:
    "Anyone with the link can read the job as it is when the link is made, but not change it. Later changes do not show.",
  links: "Links",
  cancelLink: "cancel link",
  who: "who it is for",
  howLongLasts: "how long it lasts",
  week: "a week",
  year: "a year",
  makeLink: "make a link",
} as const;

export const JOB_LIST = {
  keptHere: "No signal: these are the jobs kept on this device. Others need a signal.",
  jobs: "Jobs",
  firmWorking: "The firm you are working in",
  couldNotOpened: "Could not be opened:",
  openingJobs: "Opening the jobs …",
  tryAgain: "try again",
  searchJobsName: "Search the jobs by name, client or place",
  nameClientPlace: "name, client or place",
  whichJobs: "Which jobs",
  deleted30Days: "deleted, for 30 days",
  noJobMatches: "No job matches.",
  noArchivedJobs: "No archived jobs.",
  noDeletedJobs: "No deleted jobs.",
  noJobsYet: "No jobs yet. Name one above: it starts with your answers only, nothing made up.",
  openCorrect: "Open it to correct it.",
  movesDeletedJobs:
    "It moves to deleted jobs, with its circuits and history, and can be restored for 30 days. After that it is gone for good.",
  fileLargerThan: "the file is larger than 2 MB.",
  notWorkedOut: "not worked out",
  noCircuitYet: "no circuit yet",
} as const;

export const NEW_JOB = {
  nameNewJob: "Name of the new job",
  nameNewJob2: "name of a new job",
  startJob: "start a job",
  fewQuestionsAny: "A few questions; any can wait for the survey. Nothing is made up.",
  what: "What it is",
  whoOwnWords: "Who it is for, in your own words",
  addressNameHouse: "Address or name of the house",
  earthingSupply: "Earthing of the supply",
  notCheckedYet: "not checked yet",
  designed: "Designed to",
  whatOutbuildingCalled: "What the outbuilding is called",
  lengthSubMain: "Length of its sub-main, in m",
} as const;
