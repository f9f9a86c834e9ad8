/** What the view of the earthing says where there is nothing to compare. */
export const NO_BOARD =
  "No outbuilding or second board. Add a board and feed it by a sub-main to compare ways of earthing it.";
export const NO_OPTION = "No earthing option can be worked out: enter Ze and the sub-main’s length.";

export const EARTHING_DRAWING = {
  earthingBondingDrawn: "Earthing and bonding drawn",
  mainEarthingTerminal: "main earthing terminal",
  describeDrawing: "describe the drawing",
  noMetalServices: "No metal services at the intake that need bonding",
  metalServicesIntake: "Metal services at the intake not checked yet",
} as const;

export const EARTHING = {
  earthingOutbuildings: "Earthing and outbuildings",
  intake: "At the intake",
  separateBuilding: ", in a separate building",
  whichRightDepends:
    "Which is right depends on the site, and on the distributor's conditions for exporting the earth. The figures help; the choice, and proving it on site, rest with a competent person.",
} as const;

export const WAYS = {
  workingOutOptions: "Working out the options …",
  zsBoard: "Zs at the board",
  whatMeans: "what it means",
  reasonPrintedDocument: "the reason, printed on the document",
} as const;

/** Where the armour of a feed is earthed. */
export const ARMOUR = {
  both: "armour earthed at both ends",
  supply: "armour earthed at the supply end only",
  none: "armour earthed at neither end",
};
