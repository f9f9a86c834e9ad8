export const WORKING = {
  working: "Working",
  openCircuitChoose: "Open a circuit and choose a check: its working appears here, step by step.",
  checkedPrint: "✓ checked in print",
  valueCheckedAgainst: "value to be checked against the printed table",
  checked: "† to be checked",
} as const;
