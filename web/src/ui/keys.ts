import { useEffect, useRef } from "react";

const KEY = "mellow-span/letter-keys";

/** Single letters act as commands unless switched off in the key list. */
export const letterKeys = {
  on: () => localStorage.getItem(KEY) !== "off",
  set: (on: boolean) => localStorage.setItem(KEY, on ? "on" : "off"),
};

/** Bind single keys while no field, list or dialog has the focus. */
export function useKeys(keys: Record<string, () => void>) {
  const current = useRef(keys);
  current.current = keys;
  useEffect(() => {
    const onKeyDown = (event: KeyboardEvent) => {
      if (event.ctrlKey || event.metaKey || event.altKey || event.defaultPrevented || !letterKeys.on()) return;
      const on = event.target as HTMLElement;
      if (on.closest("input, textarea, select, [role=dialog], [data-word], [role=listbox], [contenteditable]")) return;
      const action = current.current[event.key];
      if (!action) return;
      event.preventDefault();
      action();
    };
    globalThis.addEventListener("keydown", onKeyDown);
    return () => globalThis.removeEventListener("keydown", onKeyDown);
  }, []);
}
