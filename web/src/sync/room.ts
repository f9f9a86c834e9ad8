/** The room this browser gives to what waits in it. */

/** Left room at which no further photo should be counted on [bytes]. */
const SHORT = 30_000_000;
let asked = false;

/** Ask the browser, once, not to throw away what is kept here when the device runs out of room. */
export function askToKeep() {
  if (asked) return;
  asked = true;
  void navigator.storage?.persist?.().catch(() => false);
}

/** How much room is left where it is short [MB]; null where it is not, or nobody can tell. */
export async function roomShort(): Promise<number | null> {
  try {
    const { quota, usage } = (await navigator.storage?.estimate?.()) ?? {};
    if (quota === undefined || usage === undefined || quota === 0) return null;
    const left = quota - usage;
    return left < SHORT ? Math.max(0, Math.round(left / 1_000_000)) : null;
  } catch {
    return null;
  }
}
