export const DOUBTFUL_CELLS = {
  lookingThroughWorking: "Looking through the working …",
  valuesChecked: "Values to be checked",
  tableValuesUsed: "Table values used in this job, still to be checked",
  noneEveryTable: "None: every table value used is confirmed, or checked by your firm against the printed standard.",
  checkedAgainstPrinted: "Checked against the printed standard",
} as const;

export const SETTLE = {
  agreesPrintedTable: "agrees with the printed table",
  needs0More: "Needs 0 or more.",
  usePrintedValue: "use the printed value",
  markUnchecked: "mark as unchecked",
  appliesEveryJob: "Applies to every job of your firm, with your name and today’s date.",
} as const;

export const TABLE_VIEW = {
  checkedAgainstPrinted: "† to be checked against the printed table: open it to confirm or correct it",
} as const;

export const TABLES = {
  tables: "Tables",
  searchTablesNumber: "Search the tables by number, word, clause or value",
  numberWordClause: "number, word, clause or value",
  opening: "Opening …",
  nothingFound: "Nothing found.",
  backWorking: "back to the working",
  chooseTableEvery: "Choose a table. Every number in a working comes from one of these cells.",
  cellsReadBook: "Cells read in the book",
  checkedAgainstPrinted: "Checked against the printed standard by your firm",
} as const;
