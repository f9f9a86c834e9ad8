import type { Note } from "./state";

/** The tabs of one person on one job: one of them sends, all of them hear what it did. */
export interface Tabs {
  /** Ask to be the one that sends; called back when it is so, at once or when the one before has gone. */
  elect(then: () => void): void;
  tell(note: Note): void;
  hear(then: (note: Note) => void): void;
  close(): void;
}

export function tabsOf(person: string, job: string): Tabs {
  const name = `mellow-span/${person}/${job}`;
  const channel = typeof BroadcastChannel === "undefined" ? null : new BroadcastChannel(name);
  const leaving = new AbortController();
  let release = () => {};
  return {
    elect(then) {
      if (!globalThis.navigator?.locks) return then();
      const held = new Promise<void>((done) => {
        release = done;
      });
      navigator.locks
        .request(name, { signal: leaving.signal }, () => {
          then();
          return held;
        })
        .catch(() => {
          // Left before its turn came.
        });
    },
    tell: (note) => channel?.postMessage(note),
    hear(then) {
      channel?.addEventListener("message", (event) => then(event.data as Note));
    },
    close() {
      leaving.abort();
      release();
      channel?.close();
    },
  };
}
