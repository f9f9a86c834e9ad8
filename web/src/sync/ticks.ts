import { ApiError } from "../api/client";

/** What was ticked off on site, by the clock there; sent again it does no harm. */
export interface Tick {
  circuit: string;
  done?: boolean;
  undecided?: boolean;
  at: string;
}

const RETRY_MS = 3000;

/** Ticks that were not sent yet, kept in this browser by person and job: they go out in order, as soon as the server is there. */
export class Ticks {
  private listeners = new Set<() => void>();
  private waiting: readonly Tick[];
  private sending = false;
  private timer: ReturnType<typeof setTimeout> | undefined;
  private closed = false;
  private readonly key: string;

  constructor(
    person: string,
    job: string,
    private send: (tick: Tick) => Promise<void>,
    private refused: (why: string) => void,
    private storage: Pick<Storage, "getItem" | "setItem" | "removeItem"> = localStorage,
  ) {
    this.key = `mellow-span/ticks/${person}/${job}`;
    this.waiting = read(storage.getItem(this.key));
    globalThis.addEventListener?.("online", this.again);
    void this.flush();
  }

  get = () => this.waiting;
  subscribe = (listener: () => void) => {
    this.listeners.add(listener);
    return () => this.listeners.delete(listener);
  };
  add(tick: Tick) {
    this.set([...this.waiting, tick]);
    void this.flush();
  }
  close() {
    this.closed = true;
    clearTimeout(this.timer);
    globalThis.removeEventListener?.("online", this.again);
  }

  private again = () => void this.flush();

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
        this.set(this.waiting.slice(1));
      }
    } catch {
      if (!this.closed) this.timer = setTimeout(this.again, RETRY_MS);
    } finally {
      this.sending = false;
    }
  }

  private set(waiting: readonly Tick[]) {
    this.waiting = waiting;
    if (waiting.length === 0) this.storage.removeItem(this.key);
    else this.storage.setItem(this.key, JSON.stringify(waiting));
    for (const listener of this.listeners) listener();
  }
}

function read(text: string | null): readonly Tick[] {
  try {
    const found = JSON.parse(text ?? "[]");
    return Array.isArray(found) ? found.filter((t) => typeof t?.circuit === "string" && typeof t?.at === "string") : [];
  } catch {
    return [];
  }
}
