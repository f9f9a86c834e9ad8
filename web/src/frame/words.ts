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
