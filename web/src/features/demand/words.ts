export const DEMAND_BARS = {
  noDemandDraw: "No demand to draw yet.",
  demandEachBoard: "Demand of each board against its feed",
  solidDemandAfter:
    "Solid: demand after diversity. Hatched: future loads. Copper line: rating of the feed or service fuse.",
} as const;

export const DEMAND = {
  backDesignView: "back to design view",
  whatWantedRoom: "What is wanted, room by room",
  maximumDemand: "Maximum demand",
  clientView: "client view",
  demandServiceFuse: "Demand on the service fuse",
  kindLoad: "By kind of load",
  afterDiversity: "after diversity",
  futureLoads: "with future loads",
} as const;

export const ROOMS = {
  roomsLoads: "Rooms and loads",
  noRoomGiven: "No room given",
  typeRatingWhat: "Type a rating and what it is: 9.2 kW kiln, 6 x 8 W lights, sockets.",
  addLoad: "Add a load",
  room: "Room",
  loadClientNames: "Load, as the client names it",
  of92Kw: "9.2 kW kiln · 6 x 8 W lights · sockets",
  getsOwnCircuit: "It gets its own circuit on the first board, to be designed there.",
} as const;
