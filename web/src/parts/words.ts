/** What is said of entries of the site log that are not with the server yet. */
export const UNSENT = {
  notAccepted: "Not accepted by the server",
  theyStay:
    "These stay in this browser until you decide. Correct what is named and enter it again, or send it as it is.",
  sendAgain: "send again",
  discard: "discard",
  saveFile: "save them as a file",
  discardTitle: "Discard this entry?",
  discardSay: "It was never saved on the server. It cannot be brought back.",
  unkept: (count: number) =>
    `This browser cannot keep ${count === 1 ? "an entry" : `${count} entries`}: its storage is full or switched off. Keep this page open until ${count === 1 ? "it is" : "they are"} sent.`,
} as const;
