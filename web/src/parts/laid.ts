/** How grouped cables lie, in words. */
export const LAID: Record<string, string> = {
  bunched: "bunched or enclosed",
  layer: "single layer on a surface",
  spaced: "single layer, spaced",
  tray: "single layer on perforated tray",
  ladder: "single layer on ladder",
  apart_quarter: "0.25 m apart in the ground",
  apart_half: "0.5 m apart in the ground",
};
