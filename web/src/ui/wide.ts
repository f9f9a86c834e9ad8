import { useSyncExternalStore } from "react";

const query = globalThis.matchMedia?.("(min-width: 80rem)");

/** Whether there is room for the working beside the circuit; else it goes below. */
export function useWide(): boolean {
  return useSyncExternalStore(
    (tell) => {
      query?.addEventListener("change", tell);
      return () => query?.removeEventListener("change", tell);
    },
    () => query?.matches ?? true,
  );
}
