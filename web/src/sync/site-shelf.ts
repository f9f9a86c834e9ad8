import type { DBSchema } from "idb";
import { keptIn } from "./database";
import type { SiteEntry } from "./site-log";

/** An entry the server did not accept, and why: kept until somebody decides. */
export interface Refused {
  entry: SiteEntry;
  why: string;
}

/** Where entries of the site log are kept in this browser until they are answered: by person and job. Photos lie here too. */
export interface SiteShelf {
  read(): Promise<{ waiting: SiteEntry[]; refused: Refused[] }>;
  keep(entry: SiteEntry): Promise<void>;
  has(id: string): Promise<boolean>;
  forget(id: string): Promise<void>;
  refuse(refused: Refused): Promise<void>;
}

interface Row {
  person: string;
  job: string;
  id: string;
  entry: SiteEntry;
  /** Why it was not accepted; empty while it waits. */
  why: string;
}
interface Tables extends DBSchema {
  entries: { key: [string, string, string]; value: Row; indexes: { of: [string, string]; by: string } };
}

const { open: database, close: closeSiteShelf } = keptIn<Tables>("mellow-span-site", 1, (db) => {
  const rows = db.createObjectStore("entries", { keyPath: ["person", "job", "id"] });
  rows.createIndex("of", ["person", "job"]);
  rows.createIndex("by", "person");
});

export { closeSiteShelf };

const isEntry = (e: unknown): e is SiteEntry =>
  typeof e === "object" &&
  e !== null &&
  (["id", "kind", "at"] as const).every((k) => typeof (e as SiteEntry)[k] === "string");

export function siteShelfOf(person: string, job: string): SiteShelf {
  const put = async (entry: SiteEntry, why: string) =>
    void (await (await database()).put("entries", { person, job, id: entry.id, entry, why }));
  return {
    async read() {
      const rows = (await (await database()).getAllFromIndex("entries", "of", [person, job])).filter((r) =>
        isEntry(r.entry),
      );
      return {
        waiting: rows.filter((r) => !r.why).map((r) => r.entry),
        refused: rows.filter((r) => r.why).map(({ entry, why }) => ({ entry, why })),
      };
    },
    keep: (entry) => put(entry, ""),
    has: async (id) => ((await (await database()).get("entries", [person, job, id]))?.why ?? null) === "",
    async forget(id) {
      await (await database()).delete("entries", [person, job, id]);
    },
    refuse: ({ entry, why }) => put(entry, why || "not accepted"),
  };
}

/** How many entries of a person wait here to be sent, by job; those that were not accepted count too. */
export async function siteWaiting(person: string): Promise<Map<string, number>> {
  const found = new Map<string, number>();
  try {
    for (const row of await (await database()).getAllFromIndex("entries", "by", person))
      found.set(row.job, (found.get(row.job) ?? 0) + 1);
  } catch {
    // Storage that fails holds nothing to tell of.
  }
  return found;
}
