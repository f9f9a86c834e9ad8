import { ApiError, Away } from "../api/client";
import { stored } from "../ui/remembered";
import { type Refused, type SiteShelf, siteShelfOf } from "./site-shelf";

/** What was done or read on site, by the clock there. Its identity is made here, so that sent twice it is there once. */
export interface SiteEntry {
  id: string;
  kind: string;
  subject: string | null;
  data: Record<string, unknown>;
  at: string;
}
/** id: of an entry whose identity is made of what it holds, so that the same thing taken in again is there once. */
export type NewEntry = Pick<SiteEntry, "kind" | "data"> & { subject?: string | null; at?: string; id?: string };

/** What waits here, what was not accepted, and whether something could not be kept in this browser. */
export interface SiteState {
  waiting: readonly SiteEntry[];
  refused: readonly Refused[];
  /** Entries that this browser could not keep: they are lost where the page closes before they are sent. */
  unkept: readonly string[];
}

/** Jobs whose log a page of this window attends to, by person and job: nobody else sends for them. */
export const attended = new Set<string>();
export const ofJob = (person: string, job: string) => `${person}/${job}`;

/** The storage an earlier version kept entries in. */
type Old = Pick<Storage, "getItem" | "setItem" | "removeItem" | "key" | "length">;
const RETRY_MS = 3000;
const LONGEST_MS = 15_000;
const AT_ONCE = 50;
/** Answers that are none yet: not signed in, not allowed just now, too many at once. */
const LATER = [401, 403, 408, 425, 429];

/**
 * Entries that were not sent yet, kept in this browser by person and job before they are sent: they go out in order, photos behind the rest, as soon
 * as the server is there. What is refused stays, with the reason, until somebody decides; one that cannot be sent holds up nothing but what builds on it.
 */
export class SiteLog {
  private listeners = new Set<() => void>();
  private state: SiteState = { waiting: [], refused: [], unkept: [] };
  /** Sent and answered, but not yet seen in what the views show: still laid over them. */
  private sent = new Set<string>();
  private keeping = new Map<string, Promise<void>>();
  private epoch = "";
  /** Entries that lie beside the shelf, since it was full. */
  private besides = new Set<string>();
  private sending = false;
  private tries = 0;
  private timer: ReturnType<typeof setTimeout> | undefined;
  private closed = false;
  private readonly channel: BroadcastChannel | null;

  constructor(
    private person: string,
    private job: string,
    private send: (entry: SiteEntry) => Promise<unknown>,
    /** Called once what was sent is stored: resolves when the views show it. */
    private landed: () => Promise<void> = async () => {},
    private shelf: SiteShelf = siteShelfOf(person, job),
    private old: Old | null = stored(),
    /** Sends several at once; the reason for each that was not accepted, empty for one that is stored. */
    private sendAll: ((entries: readonly SiteEntry[]) => Promise<readonly string[]>) | null = null,
  ) {
    this.channel = "BroadcastChannel" in globalThis ? new BroadcastChannel(`mellow-span/site/${person}/${job}`) : null;
    this.channel?.addEventListener("message", this.elsewhere);
    globalThis.addEventListener?.("online", this.now);
    void this.start();
  }

  get = () => this.state;
  subscribe = (listener: () => void) => {
    this.listeners.add(listener);
    return () => void this.listeners.delete(listener);
  };

  add({ kind, subject, data, at, id }: NewEntry) {
    const entry = {
      id: id ?? crypto.randomUUID(),
      kind,
      subject: subject ?? null,
      data,
      at: at ?? new Date().toISOString(),
    };
    this.show({ waiting: [...this.state.waiting, entry] });
    const kept = this.shelf.keep(entry).then(
      () => this.channel?.postMessage("kept"),
      () => this.aside(entry),
    );
    this.keeping.set(entry.id, kept);
    void kept.then(() => {
      this.keeping.delete(entry.id);
      void this.flush();
    });
    return entry.id;
  }

  /** Send one that was not accepted again, as it is. */
  again(id: string) {
    const one = this.state.refused.find((r) => r.entry.id === id);
    if (!one) return;
    this.show({ refused: this.state.refused.filter((r) => r !== one) });
    this.add(one.entry);
  }

  /** Give one up that was not accepted. */
  async discard(id: string) {
    this.show({ refused: this.state.refused.filter((r) => r.entry.id !== id) });
    await this.forget(id);
  }

  close() {
    this.closed = true;
    clearTimeout(this.timer);
    globalThis.removeEventListener?.("online", this.now);
    this.channel?.close();
  }

  /** The server may be there again: ask it at once. */
  now = () => {
    this.tries = 0;
    void this.flush();
  };
  private elsewhere = () => void this.read().then(() => this.flush());

  private async start() {
    for (const entry of leftBehind(this.old, this.place(""))) {
      const kept = await this.shelf.keep(entry).then(
        () => true,
        () => false,
      );
      if (kept) this.old?.removeItem(this.place(entry.id));
      else {
        this.besides.add(entry.id);
        this.show({ waiting: [...this.state.waiting, entry] });
      }
    }
    this.epoch = await this.shelf.epoch().catch(() => "");
    await this.read();
    await this.flush();
  }

  /** Whether the browser threw away what lay here and began anew: what this page still knows is then kept again. */
  private async thrownAway(): Promise<boolean> {
    const now = await this.shelf.epoch().catch(() => this.epoch);
    if (!this.epoch || now === this.epoch) return false;
    this.epoch = now;
    for (const e of this.state.waiting)
      if (!this.sent.has(e.id) && !this.besides.has(e.id)) await this.shelf.keep(e).catch(() => this.aside(e));
    for (const one of this.state.refused) await this.shelf.refuse(one).catch(() => {});
    return true;
  }

  private place = (id: string) => `mellow-span/site/${this.person}/${this.job}/${id}`;

  /** The shelf is full: a few words still fit beside it, a photo does not. What fits nowhere is told, and kept while the page is open. */
  private aside(entry: SiteEntry) {
    try {
      if (entry.kind === "photo" || !this.old) throw new Error("too large");
      this.old.setItem(this.place(entry.id), JSON.stringify(entry));
      this.besides.add(entry.id);
    } catch {
      this.show({ unkept: [...this.state.unkept, entry.id] });
    }
  }

  /** Where nobody need look for it any more. */
  private async forget(id: string) {
    if (this.besides.delete(id)) this.old?.removeItem(this.place(id));
    await this.shelf.forget(id).catch(() => {});
  }

  /** Take in what lies on the shelf beside what this page itself knows. */
  private async read() {
    await this.thrownAway();
    const found = await this.shelf.read().catch(() => ({ waiting: [], refused: [] }));
    const mine = this.state.waiting.filter(
      (e) =>
        this.sent.has(e.id) || this.keeping.has(e.id) || this.besides.has(e.id) || this.state.unkept.includes(e.id),
    );
    const ids = new Set(mine.map((e) => e.id));
    const all = [...mine, ...found.waiting.filter((e) => !ids.has(e.id))];
    this.show({ waiting: all.sort((a, b) => a.at.localeCompare(b.at)), refused: found.refused });
  }

  private async flush() {
    if (this.sending || this.closed) return;
    this.sending = true;
    clearTimeout(this.timer);
    let wait = false;
    try {
      wait = await alone(`mellow-span/site/${this.person}/${this.job}`, () => this.round());
    } catch {
      wait = true;
    } finally {
      this.sending = false;
    }
    if (this.closed) return;
    if (wait) this.timer = setTimeout(() => void this.flush(), Math.min(LONGEST_MS, RETRY_MS * 2 ** this.tries++));
    // What came while the last answer was on its way.
    else if (this.state.waiting.some((e) => !this.sent.has(e.id) && !this.keeping.has(e.id))) void this.flush();
  }

  /** Send all that can be sent. Returns whether something has to be tried again later. */
  private async round(): Promise<boolean> {
    const held = new Set<string>();
    let later = false;
    const isDue = (e: SiteEntry) =>
      !this.sent.has(e.id) && !this.keeping.has(e.id) && !held.has(e.id) && !held.has(chain(e));
    const due = () =>
      [...this.state.waiting].sort((a, b) => Number(a.kind === "photo") - Number(b.kind === "photo")).find(isDue);
    let together = this.sendAll !== null;
    for (let next = due(); next && !this.closed; next = due()) {
      const words = this.state.waiting.filter((e) => e.kind !== "photo" && isDue(e)).slice(0, AT_ONCE);
      if (together && words.length > 1) {
        const how = await this.several(words);
        if (how === "stop") return true;
        // One of them the server cannot even read: then each goes for itself.
        together = how === "sent";
        continue;
      }
      const how = await this.one(next);
      if (how === "stop") return true;
      if (how === "held") {
        later = true;
        held.add(next.id);
        if (chain(next)) held.add(chain(next));
      }
    }
    if (this.sent.size > 0) {
      await this.landed();
      const seen = new Set(this.sent);
      this.sent.clear();
      this.show({
        waiting: this.state.waiting.filter((e) => !seen.has(e.id)),
        unkept: this.state.unkept.filter((id) => !seen.has(id)),
      });
    }
    return later;
  }

  /** Send words together, in their order. */
  private async several(entries: readonly SiteEntry[]): Promise<"sent" | "stop" | "each"> {
    const mine = [];
    for (const entry of entries) if (await this.here(entry)) mine.push(entry);
    if (mine.length === 0) return "sent";
    let whys: readonly string[];
    try {
      whys = (await this.sendAll?.(mine)) ?? [];
    } catch (error) {
      return error instanceof Away || (error instanceof ApiError && LATER.includes(error.status)) ? "stop" : "each";
    }
    if (whys.length !== mine.length) return "each";
    this.tries = 0;
    for (const [k, entry] of mine.entries()) {
      if (whys[k]) await this.refuse(entry, whys[k]);
      else await this.stored(entry);
    }
    this.channel?.postMessage("sent");
    return "sent";
  }

  /** Whether this window is the one to send an entry: another may have sent it meanwhile; what could not be kept is known here alone. */
  private async here(entry: SiteEntry): Promise<boolean> {
    if (this.besides.has(entry.id) || this.state.unkept.includes(entry.id)) return true;
    if (await this.shelf.has(entry.id).catch(() => true)) return true;
    if (await this.thrownAway()) return true;
    // It is on the shelf no more, or lies there as not accepted: either way another window has told what became of it.
    this.sent.add(entry.id);
    const found = await this.shelf.read().catch(() => null);
    if (found) this.show({ refused: found.refused });
    return false;
  }

  private async stored(entry: SiteEntry) {
    this.sent.add(entry.id);
    await this.forget(entry.id);
  }

  private async refuse(entry: SiteEntry, why: string) {
    const refused = { entry: await this.whole(entry), why };
    // What lies beside a full shelf stays there until the shelf has it with its reason: it is then refused once more, and told.
    await this.shelf.refuse(refused).then(
      () => this.besides.delete(entry.id) && this.old?.removeItem(this.place(entry.id)),
      () => {},
    );
    this.show({
      waiting: this.state.waiting.filter((e) => e.id !== entry.id),
      refused: [...this.state.refused, refused],
    });
  }

  private async one(entry: SiteEntry): Promise<"sent" | "held" | "stop"> {
    if (!(await this.here(entry))) return "sent";
    try {
      await this.send(await this.whole(entry));
    } catch (error) {
      if (error instanceof Away || (error instanceof ApiError && LATER.includes(error.status))) return "stop";
      if (!(error instanceof ApiError) || error.status >= 500) return "held";
      await this.refuse(entry, error.message);
      this.channel?.postMessage("refused");
      return "sent";
    }
    this.tries = 0;
    await this.stored(entry);
    this.channel?.postMessage("sent");
    return "sent";
  }

  /** A photo with its picture, which lies beside it on the shelf. */
  private async whole(entry: SiteEntry): Promise<SiteEntry> {
    if (entry.kind !== "photo" || entry.data.image) return entry;
    const image = await this.shelf.picture(entry.id).catch(() => null);
    return image ? { ...entry, data: { ...entry.data, image } } : entry;
  }

  private show(next: Partial<SiteState>) {
    this.state = { ...this.state, ...next };
    for (const listener of this.listeners) listener();
  }
}

/** What an entry builds on: the steps of one record of isolation go in order, or not at all. */
const chain = (e: SiteEntry) => (e.kind === "isolation" ? `record ${e.data.record}` : "");

/** One window of a person at a time sends for a job; where the browser has no locks each does, which does no harm. */
async function alone<T>(name: string, act: () => Promise<T>): Promise<T> {
  return globalThis.navigator?.locks ? await navigator.locks.request(name, act) : await act();
}

/** Entries that an earlier version of this page kept in its own way. */
function leftBehind(old: Old | null, prefix: string): SiteEntry[] {
  const found: SiteEntry[] = [];
  try {
    for (let k = 0; old && k < old.length; k++) {
      const key = old.key(k);
      if (!key?.startsWith(prefix)) continue;
      try {
        const entry = JSON.parse(old.getItem(key) ?? "null");
        if (typeof entry?.id === "string" && typeof entry?.kind === "string" && typeof entry?.at === "string")
          found.push(entry);
      } catch {
        // Damaged: there is nothing in it to send.
      }
    }
  } catch {
    // A browser that refuses its storage has kept nothing there.
  }
  return found;
}
