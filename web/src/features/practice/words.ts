export const EXERCISE_FORM = {
  given: "Given",
} as const;

export const EXERCISE = {
  notCounted: "Marked on this device without a signal: it does not count towards your progress.",
  practice: "Practice",
  everyLineRight: "Every line is right, or right from your own earlier figure.",
  whatFilledRight: "What you filled in is right; some lines are blank.",
  mark: "mark it",
  anotherExercise: "another exercise",
  oneAgain: "this one again",
  workedSolution: "the worked solution",
} as const;

export const NEW_PAPER = {
  setPaper: "set a paper …",
  paperSet: "A paper to set",
  questionsEach: "questions on each",
  minutesBlankNo: "minutes (blank for no limit)",
  set: "set it",
} as const;

export const PAPER = {
  practice: "Practice",
  whatTypedKept: "What is typed is kept in this browser until it is handed in.",
  someAnswersNot: "Some answers are not numbers: see below.",
  hand: "hand it in",
  paperHandedOnce: "A paper is handed in once.",
  timeUpCan: "Time is up. You can still hand it in; it will be marked late.",
  nobodyHasHanded: "Nobody has handed it in yet.",
  printAnswersSeparate: "print, answers separate",
  nameDate: "Name: ______________________________ Date: ______________",
  answers: "Answers",
} as const;

export const PRACTICE = {
  practice: "Practice",
  madeUpCircuits:
    "Made-up circuits to work out by hand, each solved by the same rules that check a design. A wrong figure is marked once; later lines are marked on your own figure. There is no time limit.",
  book: "The book",
  notTriedYet: "not tried yet",
  papers: "Papers",
  noPapersSet: "No papers set.",
  print: "print it",
  withdraw: "withdraw it",
  noOneElse: "No one else can start it. Papers already started can be handed in, and results stay.",
} as const;

export const TABLE_SHEET = {
  close: "close it",
} as const;
