import type { DBSchema } from "idb";
import { base64 } from "../../ui/base64";
import { keptIn } from "../database";
import type { Refused, SiteEntry } from "./state";

/** Where entries of the site log are kept in this browser until they are answered: by person and job. Photos lie here too. */
export interface SiteShelf {
  read(): Promise<{ waiting: SiteEntry[]; refused: Refused[] }>;
  keep(entry: SiteEntry): Promise<void>;
  forget(id: string): Promise<void>;
  refuse(refused: Refused): Promise<void>;
  /** The picture of a photo as a data address; null where there is none. */
  picture(id: string): Promise<string | null>;
  /** A mark of this very storage: another one where the browser threw it away and began a new one. */
  epoch(): Promise<string>;
}

interface Row {
  person: string;
  job: string;
  id: string;
  entry: SiteEntry;
  /** Why it was not accepted; empty while it waits. */
  why: string;
  /** The picture of a photo: its entry is read often, the picture once. */
  photo?: Blob;
}
interface Tables extends DBSchema {
  entries: { key: [string, string, string]; value: Row; indexes: { of: [string, string]; by: string } };
  marks: { key: string; value: string };
}

const { open: database, close: closeSiteShelf } = keptIn<Tables>("mellow-span-site", 2, (db, before) => {
  if (before < 1) {
    const rows = db.createObjectStore("entries", { keyPath: ["person", "job", "id"] });
    rows.createIndex("of", ["person", "job"]);
    rows.createIndex("by", "person");
  }
  db.createObjectStore("marks");
});

export { closeSiteShelf };

const isEntry = (e: unknown): e is SiteEntry =>
  typeof e === "object" &&
  e !== null &&
  (["id", "kind", "at"] as const).every((k) => typeof (e as SiteEntry)[k] === "string");

const HEAD = "data:image/jpeg;base64,";

/** A JPEG out of a data address. Null where it is none. */
function bytesOf(image: string): Blob | null {
  if (!image.startsWith(HEAD)) return null;
  try {
    return new Blob([Uint8Array.from(atob(image.slice(HEAD.length)), (c) => c.charCodeAt(0))], { type: "image/jpeg" });
  } catch {
    return null;
  }
}

const addressOf = async (photo: Blob) => `${HEAD}${base64(new Uint8Array(await photo.arrayBuffer()))}`;

async function whole({ entry, photo }: Row): Promise<SiteEntry> {
  return photo ? { ...entry, data: { ...entry.data, image: await addressOf(photo) } } : entry;
}

export function siteShelfOf(person: string, job: string): SiteShelf {
  const put = async (entry: SiteEntry, why: string) => {
    const { image, ...data } = entry.data;
    const bytes = entry.kind === "photo" && typeof image === "string" ? bytesOf(image) : null;
    const db = await database();
    // What lies there already keeps its picture.
    const before = bytes || entry.kind !== "photo" ? undefined : await db.get("entries", [person, job, entry.id]);
    const photo = bytes ?? before?.photo;
    const row = photo
      ? { person, job, id: entry.id, entry: { ...entry, data }, why, photo }
      : { person, job, id: entry.id, entry, why };
    await db.put("entries", row);
  };
  return {
    async read() {
      const rows = (await (await database()).getAllFromIndex("entries", "of", [person, job])).filter((r) =>
        isEntry(r.entry),
      );
      return {
        waiting: rows.filter((r) => !r.why).map((r) => r.entry),
        // Those somebody has to decide about are few, and are saved as a file whole.
        refused: await Promise.all(rows.filter((r) => r.why).map(async (r) => ({ entry: await whole(r), why: r.why }))),
      };
    },
    keep: (entry) => put(entry, ""),
    async forget(id) {
      await (await database()).delete("entries", [person, job, id]);
    },
    refuse: ({ entry, why }) => put(entry, why || "not accepted"),
    async epoch() {
      const marks = (await database()).transaction("marks", "readwrite");
      const mark = (await marks.store.get("epoch")) ?? crypto.randomUUID();
      await marks.store.put(mark, "epoch");
      await marks.done;
      return mark;
    },
    async picture(id) {
      const photo = (await (await database()).get("entries", [person, job, id]))?.photo;
      return photo ? await addressOf(photo) : null;
    },
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
