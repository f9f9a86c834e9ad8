import type { Shared } from "../machine";
import type { Failure, Halt, Passing } from "../trouble";

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

/** An entry the server did not accept, and why: kept until somebody decides. */
export interface Refused {
  entry: SiteEntry;
  why: string;
}

/**
 * Where an entry lies until it is answered: not yet anywhere, on the shelf, in a small store beside it since it was full, in this page alone, or in
 * another page alone, which told of it.
 */
export type Lies = "keeping" | "shelf" | "beside" | "nowhere" | "elsewhere";

export interface Waiting {
  entry: SiteEntry;
  lies: Lies;
  /** Answered, but not yet seen in what the views show: still laid over them. */
  sent: boolean;
  /** The server failed over it: it waits for the next try, with what builds on it. */
  held: boolean;
}

/** What lies in this browser. mark: of this very storage; another one where the browser threw it away and began anew. */
export interface Kept {
  /** Null where the shelf cannot be read. */
  waiting: readonly SiteEntry[] | null;
  beside: readonly SiteEntry[];
  refused: readonly Refused[];
  mark: string;
}

export interface State {
  person: string;
  /** Whether this tab sends for all tabs of the person on this job. */
  sender: boolean;
  waiting: readonly Waiting[];
  refused: readonly Refused[];
  flow: Halt | { is: "sending"; ids: readonly string[] } | { is: "reading"; ids: readonly string[] };
  /** What the views are asked anew for. */
  showing: readonly string[];
  /** Whether words go out together; not while one of them cannot be read by the server. */
  together: boolean;
  mark: string;
  renewed: boolean;
  rests: number;
}

/** What one tab tells the others. */
export type Note =
  | { is: "kept"; entry: SiteEntry; lies: Lies }
  | { is: "gone"; id: string; sent: boolean }
  | { is: "refused"; refused: Refused };

export type Event =
  | Shared<Note>
  | ({ is: "shelved" } & Kept)
  | { is: "added"; entry: SiteEntry }
  | { is: "kept"; id: string; lies: Lies }
  /** whys: of each that was sent why it was not accepted, empty for one that is stored. */
  | { is: "answered"; ids: readonly string[]; whys: readonly string[] }
  | { is: "failed"; ids: readonly string[]; failure: Failure | "unread"; why: string; now: number }
  | { is: "shown"; ids: readonly string[] }
  | { is: "show-failed"; now: number }
  | { is: "whole"; refused: Refused }
  | { is: "again"; id: string }
  | { is: "discard"; id: string };

export type Effect =
  | Passing
  | { do: "read" }
  | { do: "keep"; entry: SiteEntry }
  | { do: "forget"; id: string; lies: Lies; sent: boolean }
  | { do: "refuse"; refused: Refused; lies: Lies }
  | { do: "send"; entries: readonly SiteEntry[] }
  | { do: "show"; ids: readonly string[] };

export const begin = (person: string): State => ({
  person,
  sender: false,
  waiting: [],
  refused: [],
  flow: { is: "idle" },
  showing: [],
  together: true,
  mark: "",
  renewed: false,
  rests: 0,
});
