export const ROUTE_SECTION = {
  allDetailsRoute: "All details of this route",
  removeRouteSpans: "remove the route; its spans keep what was entered",
  noCablesYet: "No cables in it yet: choose it in a span’s sentence, under grouping.",
  typicalOverallDiameters: "Typical overall diameters, to scale; positions are illustrative.",
  izHere: "Iz here",
} as const;

export const ROUTE_SENTENCE = {
  nameRoute: "Name of this route",
  lengthRoute: "Length of the route",
  installationMethod: "Installation method",
  containment: "Containment",
  howTheyGrouped: "How they are grouped",
  temperatureGround: "Temperature of the ground",
  lengthSurroundedThermal: "Length surrounded by thermal insulation",
} as const;

export const ROUTES = {
  cableRoutes: "Cable routes",
  partBuildingCables:
    "A part of the building that cables share: enter how it is installed once, and the circuits in it are grouped.",
  noneYetAdd: "None yet. Add one here, or click “alone” in a span’s sentence and choose the circuit it runs alongside.",
  addRouteConduit: "add a route, conduit or trunking",
} as const;

export const TRYOUTS = {
  seeWhatDoes: "and see what it does to every circuit",
  workingOut: "Working it out",
  apply: "apply it",
} as const;
