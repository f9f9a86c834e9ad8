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
