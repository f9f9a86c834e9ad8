import { useRef } from "react";

/** Run work that a person may ask for twice, by a second Enter or click, once while it is under way. key: what makes it the same work. */
export function useOnce() {
  const running = useRef(new Set<string>());
  return async (key: string, work: () => Promise<void>) => {
    if (running.current.has(key)) return;
    running.current.add(key);
    try {
      await work();
    } finally {
      running.current.delete(key);
    }
  };
}
