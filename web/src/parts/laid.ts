/** How grouped cables lie, in words. */
export const LAID: Record<string, string> = {
  bunched: "bunched or enclosed",
  layer: "one layer on a surface",
  spaced: "one layer, spaced",
  tray: "one layer on a perforated tray",
  ladder: "one layer on a ladder",
  apart_quarter: "a quarter metre apart in the ground",
  apart_half: "half a metre apart in the ground",
};
