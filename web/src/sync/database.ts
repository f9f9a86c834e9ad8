import { type DBSchema, type IDBPDatabase, type OpenDBCallbacks, openDB } from "idb";

/** A database of this browser that is opened when it is first needed, and anew where it was closed or could not be had. */
export function keptIn<T extends DBSchema>(name: string, version: number, upgrade: OpenDBCallbacks<T>["upgrade"]) {
  let opened: Promise<IDBPDatabase<T>> | null = null;
  const forget = () => {
    opened = null;
  };
  /** Close it, so that the next use opens it anew. */
  const close = async () => {
    const db = await opened?.catch(() => null);
    db?.close();
    forget();
  };
  const open = (): Promise<IDBPDatabase<T>> => {
    opened ??= openDB<T>(name, version, { upgrade, blocking: () => void close(), terminated: forget });
    opened.catch(forget);
    return opened;
  };
  return { open, close };
}
