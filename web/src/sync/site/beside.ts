import { stored } from "../../ui/remembered";
import type { SiteEntry } from "./state";

/** A small store beside the shelf, for words where that is full; an earlier version of this page kept all entries here. */
export interface Beside {
  read(): SiteEntry[];
  /** Throws where there is no room either. */
  keep(entry: SiteEntry): void;
  forget(id: string): void;
}
type Store = Pick<Storage, "getItem" | "setItem" | "removeItem" | "key" | "length">;

export function besideOf(person: string, job: string, store: Store | null = stored()): Beside {
  const place = (id: string) => `mellow-span/site/${person}/${job}/${id}`;
  return {
    read: () => found(store, place("")),
    keep(entry) {
      // A photo has no room among words.
      if (entry.kind === "photo" || !store) throw new Error("too large");
      store.setItem(place(entry.id), JSON.stringify(entry));
    },
    forget(id) {
      try {
        store?.removeItem(place(id));
      } catch {
        // A browser that refuses its storage has kept nothing there.
      }
    },
  };
}

function found(store: Store | null, prefix: string): SiteEntry[] {
  const entries: SiteEntry[] = [];
  try {
    for (let k = 0; store && k < store.length; k++) {
      const key = store.key(k);
      if (!key?.startsWith(prefix)) continue;
      try {
        const entry = JSON.parse(store.getItem(key) ?? "null");
        if (typeof entry?.id === "string" && typeof entry?.kind === "string" && typeof entry?.at === "string")
          entries.push(entry);
      } catch {
        // Damaged: there is nothing in it to send.
      }
    }
  } catch {
    // A browser that refuses its storage has kept nothing there.
  }
  return entries;
}
