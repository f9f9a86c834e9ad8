import { ApiError, Away } from "../../api/client";
import { failureOf, Machine } from "../machine";
import { type Tabs, tabsOf } from "../tabs";
import { type Beside, besideOf } from "./beside";
import { step } from "./reducer";
import { type SiteShelf, siteShelfOf } from "./shelf";
import {
  begin,
  type Effect,
  type Event,
  type Lies,
  type NewEntry,
  type Note,
  type Refused,
  type SiteEntry,
  type State,
} from "./state";

/** What waits here, what was not accepted, and whether something could not be kept in this browser. */
export interface SiteState {
  waiting: readonly SiteEntry[];
  refused: readonly Refused[];
  /** Entries that are being kept: nothing says yet that they wait here. */
  keeping: readonly string[];
  /** Entries that this browser could not keep: they are lost where the page closes before they are sent. */
  unkept: readonly string[];
}

/** What the log asks of the server. */
export interface SiteRemote {
  send(entry: SiteEntry): Promise<unknown>;
  /** Sends several at once; the reason for each that was not accepted, empty for one that is stored. */
  sendAll(entries: readonly SiteEntry[]): Promise<readonly string[]>;
  who(signal: AbortSignal): Promise<string | null>;
  /** Called once what was sent is stored: resolves when the views show it. */
  landed(): Promise<void>;
}

/** Jobs whose log a page of this window attends to, by person and job: nobody else sends for them. */
export const attended = new Set<string>();
export const ofJob = (person: string, job: string) => `${person}/${job}`;

/** Entries of one job's site log that were not sent yet, kept in this browser by person and job before they are sent. */
export class SiteLog extends Machine<State, Event, Effect, SiteState, Note> {
  constructor(
    person: string,
    job: string,
    private remote: SiteRemote,
    private shelf: SiteShelf = siteShelfOf(person, job),
    private beside: Beside = besideOf(person, job),
    tabs: Tabs<Note> = tabsOf(`mellow-span/site/${person}/${job}`),
  ) {
    super(begin(person), tabs, remote);
    void this.open();
  }

  add = ({ kind, subject, data, at, id }: NewEntry): string => {
    const entry = {
      id: id ?? crypto.randomUUID(),
      kind,
      subject: subject ?? null,
      data,
      at: at ?? new Date().toISOString(),
    };
    this.take({ is: "added", entry });
    return entry.id;
  };
  /** Send one that was not accepted again, as it is. */
  resend = (id: string) => this.take({ is: "again", id });
  /** Give one up that was not accepted. */
  discard = (id: string) => this.take({ is: "discard", id });

  protected step(state: State, event: Event) {
    return step(state, event);
  }

  protected show({ waiting, refused }: State): SiteState {
    return {
      waiting: waiting.map((w) => w.entry),
      refused,
      keeping: waiting.filter((w) => w.lies === "keeping").map((w) => w.entry.id),
      unkept: waiting.filter((w) => w.lies === "nowhere" && !w.sent).map((w) => w.entry.id),
    };
  }

  protected do(effect: Effect) {
    switch (effect.do) {
      case "read":
        return void this.readShelf();
      case "keep":
        return void this.keep(effect.entry);
      case "forget":
        return void this.forget(effect.id, effect.lies, effect.sent);
      case "refuse":
        return void this.refuse(effect.refused, effect.lies);
      case "send":
        return void this.send(effect.entries);
      case "show":
        return void this.views(effect.ids);
    }
  }

  protected async readShelf() {
    try {
      const mark = await this.shelf.epoch();
      this.take({ is: "shelved", ...(await this.shelf.read()), beside: this.beside.read(), mark });
    } catch {
      // What is beside a shelf that fails is there all the same.
      this.take({ is: "shelved", waiting: null, refused: [], beside: this.beside.read(), mark: "" });
    }
  }

  private async keep(entry: SiteEntry) {
    const lies = await this.shelf.keep(entry).then(
      (): Lies => "shelf",
      () => this.aside(entry),
    );
    if (lies === "shelf") this.beside.forget(entry.id);
    const { image: _, ...words } = entry.data;
    // The picture of a photo lies on the shelf; one that lies nowhere goes with what is told of it.
    this.tabs.tell({ is: "kept", entry: lies === "shelf" ? { ...entry, data: words } : entry, lies });
    this.take({ is: "kept", id: entry.id, lies });
  }

  /** The shelf is full: a few words still fit beside it, a photo does not. What fits nowhere is told, and kept while the page is open. */
  private aside(entry: SiteEntry): Lies {
    try {
      this.beside.keep(entry);
      return "beside";
    } catch {
      return "nowhere";
    }
  }

  private async forget(id: string, lies: Lies, sent: boolean) {
    if (lies !== "shelf") this.beside.forget(id);
    await this.shelf.forget(id).catch(() => {});
    this.tabs.tell({ is: "gone", id, sent });
  }

  private async refuse({ entry, why }: Refused, lies: Lies) {
    const refused = { entry: await this.whole(entry), why };
    this.take({ is: "whole", refused });
    // What lies beside a full shelf stays there until the shelf has it with its reason: it is then refused once more, and told.
    await this.shelf.refuse(refused).then(
      () => lies !== "shelf" && this.beside.forget(entry.id),
      () => {},
    );
    this.tabs.tell({ is: "refused", refused });
  }

  private async send(entries: readonly SiteEntry[]) {
    const ids = entries.map((e) => e.id);
    const [first] = entries;
    try {
      if (!first || entries.length > 1) {
        const whys = await this.remote.sendAll(entries);
        if (whys.length === ids.length) this.take({ is: "answered", ids, whys });
        else this.take({ is: "failed", ids, failure: "unread", why: "", now: Date.now() });
        return;
      }
      await this.remote.send(await this.whole(first));
      this.take({ is: "answered", ids, whys: [""] });
    } catch (error) {
      this.unanswered(ids, error);
    }
  }

  private unanswered(ids: readonly string[], error: unknown) {
    const why = (error as Error).message || "not accepted";
    const known = error instanceof Away || error instanceof ApiError;
    const failure = known ? failureOf(error) : "trouble";
    if (failure || ids.length > 1) this.take({ is: "failed", ids, failure: failure ?? "unread", why, now: Date.now() });
    else this.take({ is: "answered", ids, whys: [why] });
  }

  private async views(ids: readonly string[]) {
    try {
      await this.remote.landed();
      this.take({ is: "shown", ids });
    } catch {
      this.take({ is: "show-failed", now: Date.now() });
    }
  }

  /** A photo with its picture, which lies beside it on the shelf. */
  private async whole(entry: SiteEntry): Promise<SiteEntry> {
    if (entry.kind !== "photo" || entry.data.image) return entry;
    const image = await this.shelf.picture(entry.id).catch(() => null);
    return image ? { ...entry, data: { ...entry.data, image } } : entry;
  }
}
