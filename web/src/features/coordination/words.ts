/** What the plot says at the cursor. */
export const operatesFirst = (device: string) => `${device} operates first`;
export const NOT_CERTAIN = "which operates first is not certain here";
/** After the name of a device. */
export const MAY_NOT = "may not operate";

export const COORDINATION = {
  noCircuitYet: "No circuit yet to compare.",
  selectivity: "Selectivity",
  openCircuit: "open the circuit",
} as const;

export const ORDER = {
  whichDeviceOperates: "Which device operates first",
  noTwoDevices: "No two devices in series yet.",
} as const;

export const PLOT_VIEW = {
  readPlotArrows: "Read the plot: arrows move over current and time",
  saveSvg: "save as SVG",
  savePng: "save as PNG",
  pointPlotUse: "Point at the plot, or use the arrow keys, to read current and time.",
  devicesSeriesLoad: "Devices in series, from the load to the supply",
  minimumOperatingTime: "Its minimum operating time is not tabulated: only the maximum is drawn.",
  plot: "On the plot",
  dashedLevel: "dashed level:",
  bandWhatProduct:
    "A band is what the product standard allows; a real device lies somewhere in it. Selectivity does not affect any other check.",
  current: "current, A",
  timeS: "time, s",
} as const;
