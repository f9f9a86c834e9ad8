/** What the view of all boards says. */
export const GLANCE = {
  title: "Every circuit at a glance",
  key: {
    scale: "Each bar is the share used of what is allowed; the vertical line is the limit.",
    amps: "Amps: filled to Ib, the tick is In, the limit is Iz.",
    volts: "Volt drop: the sub-mains’ part is darker.",
    loop: "Zs: the tick is 80 %, for measured values.",
  },
  sort: "Order",
  byTree: "as fed",
  byMargin: "least margin first",
  print: "print on one page",
  none: "No circuits yet. Open a board above and type its first circuit.",
  waiting: "Working out every circuit …",
  circuit: "circuit",
  verdict: "verdict",
  nearest: "nearest its limit",
  heads: { amps: "Ib, In, Iz", volts: "volt drop", loop: "Zs" },
  /** Of a ring the Iz is that of one leg. */
  leg: "a leg",
  /** Before the figures, where the head does not say it. */
  names: { amps: "current", volts: "volt drop", loop: "Zs" },
} as const;

/** In the place of a search that waits for changes that are not sent yet. */
export const ONCE_SAVED = "Available once your last changes are saved.";

/** Said of a bar to whoever does not see it. */
export const used = (name: string, share: string) => `${name}: ${share} of what is allowed`;
export const beforeSaid = (share: string) => `, ${share} by the sub-mains`;
