import type { Change, ClashAnswer, FieldError, JobState } from "../api/types";
import type { Here } from "./here";
import type { Shared } from "./machine";
import type { Failure, Halt, Passing } from "./trouble";

export type { Failure } from "./trouble";

/** What a person did: changed something, took their last edit back (or did it again), went back to a version. */
export type Act =
  | { is: "changes"; changes: readonly Change[] }
  | { is: "undo"; again: boolean }
  | { is: "back"; to: number };

/** One edit that the server has not answered yet. It keeps its identity over every try, so that it is made once. */
export interface Item {
  id: string;
  /** Its place among all that were typed in this browser for the job. */
  seq: number;
  /** The version of the job that was on the screen when it was typed. */
  base: number;
  /** The history that version belongs to; one kept by an earlier version of this page has none. */
  epoch?: string;
  act: Act;
  /** How often the server failed over it. */
  tries: number;
}

/** An edit that was set aside: nothing behind it waits, and it can be tried again, taken out as a file or let go. */
export interface Parked {
  item: Item;
  why: string;
  error: FieldError | null;
}

/** The version an edit of this browser became; what was typed after it was typed on top of it. */
export interface Landed {
  seq: number;
  version: number;
}

/** What is under way between this tab and the server: one thing at a time. */
export type Flow =
  | Halt
  | { is: "sending"; item: string; focus: string | null }
  | { is: "clash"; item: string; answer: ClashAnswer };

export interface Trial {
  n: number;
  under: boolean;
  wish: readonly Change[] | null;
  state: JobState | null;
}

export type Choice = "mine" | "theirs";

export interface State {
  job: string;
  person: string;
  /** Whether this tab sends for all tabs of the person on this job. */
  sender: boolean;
  server: JobState | null;
  focus: string | null;
  /** The number of the last look asked for; an answer to an earlier one is worthless. */
  look: number;
  queue: readonly Item[];
  parked: readonly Parked[];
  landed: readonly Landed[];
  /** What I took back since I last typed, newest last: edits that were never sent, and null for one the server takes back. */
  withdrawn: readonly (Item | null)[];
  flow: Flow;
  /** Whether a new token was asked for since the last answer. */
  renewed: boolean;
  refused: FieldError | null;
  said: string | null;
  trial: Trial | null;
  trials: number;
  /** How often in a row no answer came. */
  rests: number;
  /** Whether unsent edits survive the page: false where the browser's storage fails. */
  keeps: boolean;
  decided: Readonly<Record<string, { choice: Choice; theirs: string }>>;
  /** What was worked out on this device last. */
  here: Here | null;
}

export type Event =
  | Shared<Note>
  | { is: "shelved"; queue: readonly Item[]; parked: readonly Parked[]; landed: readonly Landed[] }
  | { is: "typed"; changes: readonly Change[]; ids: readonly string[]; now: number }
  | { is: "undo"; again: boolean; id: string; now: number }
  | { is: "back"; to: number; id: string; now: number }
  | { is: "focus"; focus: string | null }
  | { is: "tick" }
  | { is: "reload" }
  | { is: "looked"; n: number; focus: string | null; state: JobState }
  | { is: "look-failed"; n: number; failure: Failure; why: string; now: number }
  | { is: "landed"; item: string; focus: string | null; state: JobState; turned?: string | null }
  | { is: "clashed"; item: string; answer: ClashAnswer; id: string }
  | { is: "refused"; item: string; error: FieldError | null; message: string; ids: readonly [string, string] }
  | { is: "failed"; item: string; failure: Failure; why: string; now: number }
  | { is: "resolve"; choices: readonly Choice[]; id: string }
  | { is: "retry-parked"; id: string; fresh: string; now: number }
  | { is: "let-go"; id: string }
  | { is: "aside"; parked: Parked }
  | { is: "understood" }
  | { is: "try"; changes: readonly Change[] }
  | { is: "tried"; n: number; state: JobState | null }
  | { is: "try-ended" }
  | { is: "worked-out"; here: Here };

/** What one tab tells the others of the same person and job. */
export type Note =
  | { is: "kept"; item: Item }
  | { is: "forgot"; id: string; landed: Landed | null }
  | { is: "parked"; parked: Parked }
  | { is: "unparked"; id: string };

export type Effect =
  | Passing
  | { do: "send"; item: Item; base: number; seen: readonly number[]; focus: string | null }
  | { do: "look"; n: number; focus: string | null; tag: string | null }
  | { do: "keep"; item: Item }
  | { do: "forget"; id: string; landed: Landed | null; last: boolean }
  | { do: "park"; parked: Parked }
  | { do: "unpark"; id: string }
  | { do: "try"; n: number; changes: readonly Change[]; version: number; focus: string | null };

export function begin(job: string, person: string): State {
  return {
    job,
    person,
    sender: false,
    server: null,
    focus: null,
    look: 0,
    queue: [],
    parked: [],
    landed: [],
    withdrawn: [],
    flow: { is: "idle" },
    renewed: false,
    refused: null,
    said: null,
    trial: null,
    trials: 0,
    rests: 0,
    keeps: true,
    decided: {},
    here: null,
  };
}
