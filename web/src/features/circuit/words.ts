/** What the fixes of a circuit say where there is none to show. */
export const FIXES = {
  nothing: "Nothing to fix: this circuit meets every check with these inputs.",
  unknown: "Enter what is missing first: the checks that are not known name it.",
  none: "No single change fixes this circuit. Try a larger sub-main, a smaller load or splitting it.",
} as const;
