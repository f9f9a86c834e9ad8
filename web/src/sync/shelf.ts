import type { DBSchema } from "idb";
import type { Change } from "../api/types";
import { stored } from "../ui/remembered";
import { keptIn } from "./database";
import type { Act, Item, Landed, Parked } from "./state";

/** Where unsent edits are kept in this browser: by person, job and edit. Nothing is ever read back for another person. */
export interface Shelf {
  read(): Promise<{ queue: Item[]; parked: Parked[]; landed: Landed[] }>;
  keep(item: Item): Promise<void>;
  /** Forget an edit that was answered; the version it became is kept while others wait, and cleared with the last. */
  forget(id: string, landed: Landed | null, last: boolean): Promise<void>;
  park(parked: Parked): Promise<void>;
  unpark(id: string): Promise<void>;
}

/** One step of a proposal: what was changed at once. */
export interface ProposedStep {
  id: string;
  changes: readonly Change[];
}

/** Where a proposal that was not submitted lies: one for a person and job, shared by all tabs. */
export interface ProposalShelf {
  read(): Promise<readonly ProposedStep[]>;
  /** Change it at once, as whatever tab left it, and say how it is then. */
  change(how: (now: readonly ProposedStep[]) => readonly ProposedStep[]): Promise<readonly ProposedStep[]>;
}

interface Row {
  person: string;
  job: string;
  id: string;
}
interface Tables extends DBSchema {
  items: { key: [string, string, string]; value: Row & { item: Item }; indexes: { of: [string, string] } };
  parked: { key: [string, string, string]; value: Row & { parked: Parked }; indexes: { of: [string, string] } };
  landed: {
    key: [string, string, number];
    value: { person: string; job: string } & Landed;
    indexes: { of: [string, string] };
  };
  proposed: { key: [string, string]; value: { person: string; job: string; steps: readonly ProposedStep[] } };
}

const { open: database, close: closeShelf } = keptIn<Tables>("mellow-span", 2, (db, before) => {
  if (before < 1) {
    for (const name of ["items", "parked"] as const)
      db.createObjectStore(name, { keyPath: ["person", "job", "id"] }).createIndex("of", ["person", "job"]);
    db.createObjectStore("landed", { keyPath: ["person", "job", "seq"] }).createIndex("of", ["person", "job"]);
  }
  db.createObjectStore("proposed", { keyPath: ["person", "job"] });
});

export { closeShelf };

const ACTS: readonly Act["is"][] = ["changes", "undo", "back"];

/** Whether what was stored is an edit: a damaged one is set aside, not sent. */
function isItem(item: unknown): item is Item {
  if (typeof item !== "object" || item === null) return false;
  const { id, seq, base, act } = item as Partial<Item>;
  if (typeof id !== "string" || typeof seq !== "number" || typeof base !== "number" || !act) return false;
  return ACTS.includes(act.is) && (act.is !== "changes" || (Array.isArray(act.changes) && act.changes.length > 0));
}

export function shelfOf(person: string, job: string): Shelf {
  const key = (id: string): [string, string, string] => [person, job, id];
  return {
    async read() {
      const db = await database();
      const rows = await db.getAllFromIndex("items", "of", [person, job]);
      const good = rows.filter((r) => isItem(r.item));
      const damaged = rows
        .filter((r) => !isItem(r.item))
        .map((r): Parked => {
          const item: Item = { id: r.id, seq: 0, base: 1, act: { is: "changes", changes: [] }, tries: 0 };
          return { item, why: `It was damaged in this browser: ${JSON.stringify(r.item)?.slice(0, 400)}`, error: null };
        });
      const parked = (await db.getAllFromIndex("parked", "of", [person, job])).map((r) => r.parked);
      const landed = (await db.getAllFromIndex("landed", "of", [person, job])).map(({ seq, version }) => ({
        seq,
        version,
      }));
      return { queue: good.map((r) => r.item).sort((a, b) => a.seq - b.seq), parked: [...parked, ...damaged], landed };
    },
    async keep(item) {
      await (await database()).put("items", { person, job, id: item.id, item });
    },
    async forget(id, landed, last) {
      const tx = (await database()).transaction(["items", "landed"], "readwrite");
      await tx.objectStore("items").delete(key(id));
      const log = tx.objectStore("landed");
      if (last) for (const old of await log.index("of").getAllKeys([person, job])) await log.delete(old);
      else if (landed) await log.put({ person, job, ...landed });
      await tx.done;
    },
    async park(parked) {
      const tx = (await database()).transaction(["items", "parked"], "readwrite");
      await tx.objectStore("parked").put({ person, job, id: parked.item.id, parked });
      await tx.objectStore("items").delete(key(parked.item.id));
      await tx.done;
    },
    async unpark(id) {
      const tx = (await database()).transaction(["items", "parked"], "readwrite");
      await tx.objectStore("parked").delete(key(id));
      // A damaged edit lies among those to send until it is let go.
      const row = await tx.objectStore("items").get(key(id));
      if (row && !isItem(row.item)) await tx.objectStore("items").delete(key(id));
      await tx.done;
    },
  };
}

export function proposalShelfOf(person: string, job: string): ProposalShelf {
  return {
    async read() {
      return (await (await database()).get("proposed", [person, job]))?.steps ?? [];
    },
    async change(how) {
      const tx = (await database()).transaction("proposed", "readwrite");
      const steps = how((await tx.store.get([person, job]))?.steps ?? []);
      if (steps.length === 0) await tx.store.delete([person, job]);
      else await tx.store.put({ person, job, steps });
      await tx.done;
      return steps;
    },
  };
}

/** How many edits of a person wait in this browser, by job. */
export async function waiting(person: string): Promise<Map<string, number>> {
  const found = new Map<string, number>();
  try {
    for (const row of await (await database()).getAll("items"))
      if (row.person === person) found.set(row.job, (found.get(row.job) ?? 0) + 1);
  } catch {
    // Storage that fails holds nothing to tell of.
  }
  return found;
}

/** Kept by an earlier version of this page, without the name of who typed it: shown, never sent by itself. */
export function fromEarlier(job: string, storage: Pick<Storage, "getItem" | "removeItem"> | null = stored()): Parked[] {
  const key = `mellow-span/unsent/${job}`;
  try {
    const batches = JSON.parse(storage?.getItem(key) ?? "[]") as {
      edit_id: string;
      version: number | null;
      changes: never[];
    }[];
    return batches.map((b, i) => ({
      item: { id: b.edit_id, seq: i, base: b.version ?? 1, act: { is: "changes", changes: b.changes }, tries: 0 },
      why: "It was kept by an earlier version of this page.",
      error: null,
    }));
  } catch {
    return [];
  } finally {
    try {
      storage?.removeItem(key);
    } catch {
      // A storage that cannot be read cannot be cleared either.
    }
  }
}
