/** What the views on site say where nothing is there yet, or where something waits. */
export const NOTHING = {
  cables: "No cables yet. Each circuit appears here once its cable and lengths are entered.",
  terminations: "No terminations yet. Choose a cable on a circuit, and its cores, sleeves and glands are listed here.",
  materials: "Nothing to count yet. Materials are counted from circuits, boards and routes as you enter them.",
  tests: "No circuits to test yet. Tests follow from the design: add a circuit first.",
  existing:
    "No existing circuits yet. Open a circuit, then Other details, and tick existing. Inspection notes can be added below at any time.",
  place:
    "Choose what you will work on. You get every point to lock off and the steps in order; nothing can be skipped.",
} as const;
export const TO_BOARDS = "to the boards";

export const WAITING = {
  materials: "Waiting for your last changes to be sent. Materials are counted from the saved design.",
} as const;

/** Above the live tests: until the box is ticked what opens them, and always how many dead tests are open. */
export const liveTests = (left: number, open: boolean) =>
  [
    open ? "" : "Live tests open once you tick the box above.",
    left > 0 ? `${left} dead ${left === 1 ? "test is" : "tests are"} not done yet.` : "",
  ]
    .filter(Boolean)
    .join(" ");

/** What to test after terminating: every cable, and what differs for some. */
export const AFTER_ALL = "After terminating, check on every cable:";
export const AFTER = "Then check:";
