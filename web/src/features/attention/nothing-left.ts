import type { JobState } from "../../api/types";

/** What has to be put right or entered before a design is done. */
const HOLDING: ReadonlySet<string> = new Set(["short", "not_known"]);

/**
 * Whether nothing is left to put right: every circuit meets, nothing else of the job fails or is not known, and no test result is to be queried.
 * toQuery: null where that is not known, which is no yes.
 */
export const nothingLeft = (
  { summaries, attention }: Pick<JobState, "summaries" | "attention">,
  toQuery: readonly unknown[] | null,
) =>
  summaries.length > 0 &&
  summaries.every((s) => s.verdict === "meets") &&
  !attention.some((a) => HOLDING.has(a.level)) &&
  toQuery !== null &&
  toQuery.length === 0;
