import { ApiError } from "../api/client";

/** What was done or read on site, by the clock there. Its identity is made here, so that sent twice it is there once. */
export interface SiteEntry {
  id: string;
  kind: string;
  subject: string | null;
  data: Record<string, unknown>;
  at: string;
}
export type NewEntry = Pick<SiteEntry, "kind" | "data"> & { subject?: string | null; at?: string };

type Store = Pick<Storage, "getItem" | "setItem" | "removeItem" | "key" | "length">;
const RETRY_MS = 3000;

/**
 * Entries that were not sent yet, kept in this browser by person and job: they go out in order, as soon as the server is there. Each has a place of
 * its own in the store, so that two windows never write over each other's.
 */
export class SiteLog {
  private listeners = new Set<() => void>();
  private waiting: readonly SiteEntry[];
  private sending = false;
  private timer: ReturnType<typeof setTimeout> | undefined;
  private closed = false;
  private readonly prefix: string;

  constructor(
    person: string,
    job: string,
    private send: (entry: SiteEntry) => Promise<void>,
    private refused: (why: string) => void,
    private storage: Store = localStorage,
  ) {
    this.prefix = `mellow-span/site/${person}/${job}/`;
    this.waiting = this.read();
    globalThis.addEventListener?.("online", this.again);
    globalThis.addEventListener?.("storage", this.elsewhere);
    void this.flush();
  }

  get = () => this.waiting;
  subscribe = (listener: () => void) => {
    this.listeners.add(listener);
    return () => this.listeners.delete(listener);
  };
  add({ kind, subject, data, at }: NewEntry) {
    const entry = { id: crypto.randomUUID(), kind, subject: subject ?? null, data, at: at ?? new Date().toISOString() };
    this.storage.setItem(this.prefix + entry.id, JSON.stringify(entry));
    this.show([...this.waiting, entry]);
    void this.flush();
    return entry.id;
  }
  close() {
    this.closed = true;
    clearTimeout(this.timer);
    globalThis.removeEventListener?.("online", this.again);
    globalThis.removeEventListener?.("storage", this.elsewhere);
  }

  private again = () => void this.flush();
  private elsewhere = () => this.show(this.read());

  private async flush() {
    if (this.sending || this.closed) return;
    this.sending = true;
    clearTimeout(this.timer);
    try {
      for (let next = this.waiting[0]; next && !this.closed; next = this.waiting[0]) {
        try {
          await this.send(next);
        } catch (error) {
          // An answer that refuses is an answer; all else is tried again, and what is behind waits with it.
          if (!(error instanceof ApiError) || error.status === 401 || error.status === 403 || error.status === 429)
            throw error;
          this.refused(error.message);
        }
        const done = next.id;
        this.storage.removeItem(this.prefix + done);
        this.show(this.waiting.filter((e) => e.id !== done));
      }
    } catch {
      if (!this.closed) this.timer = setTimeout(this.again, RETRY_MS);
    } finally {
      this.sending = false;
    }
  }

  private show(waiting: readonly SiteEntry[]) {
    this.waiting = waiting;
    for (const listener of this.listeners) listener();
  }

  private read(): readonly SiteEntry[] {
    const found: SiteEntry[] = [];
    for (let k = 0; k < this.storage.length; k++) {
      const key = this.storage.key(k);
      const entry = key?.startsWith(this.prefix) ? parsed(this.storage.getItem(key)) : null;
      if (entry) found.push(entry);
    }
    return found.sort((a, b) => a.at.localeCompare(b.at));
  }
}

function parsed(text: string | null): SiteEntry | null {
  try {
    const found = JSON.parse(text ?? "null");
    return typeof found?.id === "string" && typeof found?.kind === "string" && typeof found?.at === "string"
      ? found
      : null;
  } catch {
    return null;
  }
}
