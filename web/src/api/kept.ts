import { type DBSchema, deleteDB, type IDBPDatabase, openDB } from "idb";

/**
 * Answers that are kept in this browser, by person and by what was asked, so that a job that was opened here opens without a server. They are what the
 * server said last, and go with whoever signs out.
 */

interface Row {
  person: string;
  about: string;
  job: string;
  at: number;
  value: unknown;
}
interface Tables extends DBSchema {
  answers: { key: [string, string]; value: Row; indexes: { of: [string, string] } };
}

/** So many jobs are kept at most; of more, the one not looked at for longest goes. */
const JOBS = 12;
/**
 * Answers of an earlier page are not shaped as those of this one: they are kept under another name, and theirs go. By a new version of the same
 * database a tab that is still open with the earlier page would hold this one up.
 */
const KEPT = "mellow-span-kept-2";
const BEFORE = "mellow-span-kept";
let opened: Promise<IDBPDatabase<Tables>> | null = null;

function database() {
  opened ??= openDB<Tables>(KEPT, 1, {
    upgrade(db) {
      void deleteDB(BEFORE).catch(() => undefined);
      db.createObjectStore("answers", { keyPath: ["person", "about"] }).createIndex("of", ["person", "job"]);
    },
    terminated() {
      opened = null;
    },
  });
  opened.catch(() => {
    opened = null;
  });
  return opened;
}

/** The job something is about: what is asked of one begins with its identity. */
const jobOf = (about: string) => (/^[0-9a-f-]{36}\//.test(about) ? about.slice(0, 36) : "");

/** Keep an answer. A browser that keeps nothing works as before, with a server. */
export async function keep(person: string, about: string, value: unknown): Promise<void> {
  try {
    const db = await database();
    await db.put("answers", { person, about, job: jobOf(about), at: Date.now(), value });
  } catch {
    // Nothing is lost by it: the server has it.
  }
}

/** What was kept last, or undefined. */
export async function recall(person: string, about: string): Promise<unknown> {
  try {
    return (await (await database()).get("answers", [person, about]))?.value;
  } catch {
    return undefined;
  }
}

/** The jobs of a person that are kept here, each as it was last looked at and when; those looked at last come first. */
export async function keptJobs(person: string): Promise<{ job: string; at: number; state: unknown }[]> {
  const newest = new Map<string, { job: string; at: number; state: unknown }>();
  try {
    for (const row of await (await database()).getAll("answers")) {
      if (row.person !== person || !row.about.startsWith(`${row.job}/state/`)) continue;
      if (row.at > (newest.get(row.job)?.at ?? 0)) newest.set(row.job, { job: row.job, at: row.at, state: row.value });
    }
  } catch {
    // Where nothing can be read, nothing is there.
  }
  return [...newest.values()].sort((a, b) => b.at - a.at);
}

/** Forget what was kept for all but a person; for nobody, everything. */
export async function forgetBut(person: string): Promise<void> {
  try {
    // At once: a page that is closed meanwhile leaves nothing half forgotten.
    const all = (await database()).transaction("answers", "readwrite");
    for (const row of await all.store.getAllKeys())
      if (!person || (row[0] !== person && row[0] !== "")) void all.store.delete(row);
    await all.done;
  } catch {
    // There is nothing then.
  }
}

/** Forget the jobs of a person that were not looked at for longest, where there are too many. */
export async function thin(person: string): Promise<void> {
  try {
    const db = await database();
    const newest = new Map<string, number>();
    for (const row of await db.getAll("answers"))
      if (row.person === person && row.job) newest.set(row.job, Math.max(row.at, newest.get(row.job) ?? 0));
    const over = [...newest].sort((a, b) => b[1] - a[1]).slice(JOBS);
    for (const [job] of over) {
      const all = db.transaction("answers", "readwrite");
      for (const key of await all.store.index("of").getAllKeys([person, job])) void all.store.delete(key);
      await all.done;
    }
  } catch {
    // It is done another time.
  }
}
