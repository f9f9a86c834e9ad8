export const PACKS = {
  ownTables: "Your own tables",
  tablePackFolder:
    "A table pack is a folder of tables used on top of a standard: an amendment, another country’s rules, a maker’s data, devices, sizes or prices. The firm that adds one answers for its numbers; if nobody has checked it, every figure based on it is marked †.",
  checkingEveryCell: "Checking every cell …",
  packLooked: "The pack that was looked at",
  add: "add it",
  openingPacks: "Opening the packs …",
  noPacksYet: "No packs yet. docs/format/packs.md shows how to make one.",
  saveZip: "save as a zip",
  noJobUses: "No job uses it.",
  newJobsCan: "New jobs can no longer use it. Jobs and issued designs that already use it keep it.",
  numbersNotStated: "Its numbers are not stated to be checked †.",
  notRequired: "Not required by it:",
  departs: "How far it departs from the standard",
  departHeads: ["table", "values changed", "pack ÷ standard", "on the unsafe side", "added"],
  nothingChanged: "It changes no value of the standard.",
  anotherUnit: "Look like another unit:",
  unsafeSide: "Furthest on the unsafe side:",
  otherwise: "Read otherwise than in the standard:",
  pastBounds: "A supervisor has to confirm this pack:",
  whyRight: "Why these values are right, and where you checked them",
  supervisorAdds: "A supervisor of your firm can add it, saying why its values are right.",
  confirmed: "Confirmed:",
} as const;

export const RECHECKS = {
  changedVerdicts: "Changed verdicts",
  whenTableValue:
    "When a table value is checked, or a newer version of a pack is added, all the firm’s jobs are worked out again. A job keeps its pack until someone moves it to the newer one.",
  noChangeSo: "No change so far could alter a verdict.",
  moved: "Figures that moved, their verdicts the same",
} as const;
