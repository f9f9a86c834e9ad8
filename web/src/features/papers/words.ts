/** Beside what a draft prints: how to get rid of it. */
export const DRAFT = "Issue a revision to remove this mark.";
/** Before the code two prints of the same data have in common; opened, it shows the whole of it. */
export const CHECK_CODE = "Check code";
