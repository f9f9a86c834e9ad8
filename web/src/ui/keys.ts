import { useEffect, useRef } from "react";
import { remembered } from "./remembered";

const KEY = "mellow-span/letter-keys";

/** Single letters act as commands unless switched off in the key list. */
export const letterKeys = {
  on: () => remembered.get(KEY) !== "off",
  set: (on: boolean) => remembered.set(KEY, on ? "on" : "off"),
};

interface Chords {
  undo: () => void;
  redo: () => void;
  /** Everything by its name. */
  palette: () => void;
}

/** Bind single keys while no field, list or dialog has the focus; taking back and doing again everywhere but where text is typed. */
export function useKeys(keys: Record<string, () => void>, chords?: Chords) {
  const current = useRef(keys);
  current.current = keys;
  const held = useRef(chords);
  held.current = chords;
  useEffect(() => {
    const onKeyDown = (event: KeyboardEvent) => {
      if (held.current && (event.ctrlKey || event.metaKey) && !event.altKey && event.key.toLowerCase() === "z") {
        // Where text is typed these keys are the browser's own.
        if ((event.target as HTMLElement).closest("input:not([type=checkbox], [type=radio]), textarea, [role=dialog]"))
          return;
        event.preventDefault();
        if (event.shiftKey) held.current.redo();
        else held.current.undo();
        return;
      }
      if (held.current && (event.ctrlKey || event.metaKey) && !event.altKey && event.key.toLowerCase() === "k") {
        event.preventDefault();
        held.current.palette();
        return;
      }
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
