/** What the view of the stages of a job says. */
export const STAGES = {
  title: "Stages",
  about:
    "Plan work that is done on different days: what is installed or removed at each. The installation of every stage is checked as a whole; cables are sized for the last.",
  none: "Not planned in stages: everything in this job is in place at once.",
  begin: "plan in stages",
  add: "add a stage",
  first: "Now",
  last: "Later",
  named: "New stage",
  earlier: "move earlier",
  later: "move later",
  remove: "remove the stage",
  list: "Stages in order",
  demand: "maximum demand",
  nothing: "nothing needs attention",
  comes: "installed",
  goes: "removed",
  throughout: "from the first",
  stays: "stays",
  whole: "In place at each stage",
  part: "board, circuit, load",
  installed: "installed at",
  removed: "removed at",
  present: "in place",
  absent: "not in place",
  working: "Working out every stage",
} as const;

export const SIZES = {
  title: "Cables that would grow",
  about:
    "New cables that need a larger size at a later stage. Cable, laying and digging at the firm’s prices, without VAT.",
  trying: "Trying sizes at every stage",
  none: "No new cable has to grow from one stage to the next.",
  circuit: "circuit",
  each: "smallest size at each stage",
  once: "once, for the last",
  renewed: "renewed at each",
  now: "as designed",
  use: "use",
  chosen: "designed so",
  dug: "dug",
} as const;

/** The name of a choice, with the part that it is about. */
export const partAt = (part: string, what: string) => `${part}, ${what}`;
