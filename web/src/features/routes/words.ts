export const ROUTE_SECTION = {
  allDetailsRoute: "All details of this route",
  removeRouteSpans: "remove the route; its spans keep what was entered",
  noCablesYet: "No cables in it yet: choose it in a span’s sentence, under grouping.",
  typicalOverallDiameters: "Typical overall diameters, to scale; positions are illustrative.",
  izHere: "Iz here",
} as const;

export const INTO_ROUTE = {
  putIn: "Put circuits in this route",
  byOne: "many at once",
  how: "A span installed as the route is comes into it; a circuit without one gets a span of the route’s length at its start.",
  circuits: "Circuits not in it yet",
  paste: "Or paste their names, one per line or with commas",
  unknown: "Not a circuit outside this route: ",
} as const;

export const FOUND_CURRENTS = {
  currents: "Currents found, for grouping",
  judgement: "in place of Ib, a designer’s judgement",
  how: "What flows, not what the device allows: by the appliances of a room, a clamp or a logger. Overload stays with In. Name and reason are printed.",
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
