/** What is said of entries of the site log that are not with the server yet. */
export const UNSENT = {
  workedOutHere: "No signal: worked out on this device, with what is not sent yet.",
  kinds: {
    pulled: "cable pulled in",
    undecided: "far end not decided",
    on_hand: "part drums in stock",
    had: "material in stock",
    isolation: "step of an isolation:",
    reading: "reading",
    board_reading: "reading at a board",
    photo: "photo:",
    observed: "observation",
    graded: "grade",
    minor_work: "minor work",
  } as Readonly<Record<string, string>>,
  notAccepted: "Not accepted by the server",
  theyStay:
    "These stay in this browser until you decide. Correct what is named and enter it again, or send it as it is.",
  sendAgain: "send again",
  discard: "discard",
  saveFile: "save them as a file",
  discardTitle: "Discard this entry?",
  discardSay: "It was never saved on the server. It cannot be brought back.",
  room: (left: number) =>
    `This device has little room left (${left} MB). Text still fits; send what waits before taking photos.`,
  unkept: (count: number) =>
    `This browser cannot keep ${count === 1 ? "an entry" : `${count} entries`}: its storage is full or switched off. Keep this page open until ${count === 1 ? "it is" : "they are"} sent.`,
} as const;
