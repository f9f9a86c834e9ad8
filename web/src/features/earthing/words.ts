/** What the view of the earthing says where there is nothing to compare. */
export const NO_BOARD =
  "No outbuilding or second board. Add a board and feed it by a sub-main to compare ways of earthing it.";
export const NO_OPTION = "No earthing option can be worked out: enter Ze and the sub-main’s length.";
