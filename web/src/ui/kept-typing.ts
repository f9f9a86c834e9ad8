import { useEffect, useState } from "react";
import { remembered } from "./remembered";

/** What is typed and not yet taken, kept in this browser under a key, so that it outlives the page; put away once it is empty again. */
export function useKeptTyping<T>(key: string, empty: T): [T, (next: T) => void, () => void] {
  const [held, setHeld] = useState(() => ({ key, value: remembered.data(key, empty) }));
  const value = held.key === key ? held.value : remembered.data(key, empty);
  useEffect(() => {
    if (held.key !== key) setHeld({ key, value: remembered.data(key, empty) });
  }, [held.key, key, empty]);
  const set = (next: T) => {
    remembered.set(key, next === empty ? null : JSON.stringify(next));
    setHeld({ key, value: next });
  };
  return [value, set, () => set(empty)];
}

/** A field saves what stands in it when it is left, and a page that closes leaves it. */
export function leaveFieldsOnClose() {
  globalThis.addEventListener("pagehide", () => {
    if (document.activeElement instanceof HTMLElement) document.activeElement.blur();
  });
}
