type Line = { saveData?: boolean; type?: string };
const here = () => globalThis.navigator as (Navigator & { connection?: Line; deviceMemory?: number }) | undefined;

/** A connection that is paid for by what goes over it, or that somebody asked to spare: nothing is taken along over it. */
export function isSpared(): boolean {
  const line = here()?.connection;
  return Boolean(line?.saveData) || line?.type === "cellular";
}

/** Whether there is no connection at all: what is asked for then is laid up here, or is not had. */
export const isCutOff = () => here()?.onLine === false;

/** Devices with less memory [GB] load what works jobs out only when it is needed. */
const LITTLE = 4;
export const hasRoom = () => (here()?.deviceMemory ?? LITTLE) >= LITTLE;
