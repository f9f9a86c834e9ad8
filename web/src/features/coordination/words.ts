/** What the plot says at the cursor. */
export const operatesFirst = (device: string) => `${device} operates first`;
export const NOT_CERTAIN = "which operates first is not certain here";
/** After the name of a device. */
export const MAY_NOT = "may not operate";
