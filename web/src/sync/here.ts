import type { Change, JobState } from "../api/types";
import type { Figures } from "../engine/local";
import { pending } from "./queue";
import type { Item, State } from "./state";

// What is worked out on this device between two answers of the server: figures for edits that wait, and circuits the server was not asked for.

/** Whoever works figures out on this device. */
export interface Works {
  /** Told how the job stands in this tab. */
  stands(job: string, server: JobState, changes: readonly Change[]): void;
  closes(job: string): void;
  figures(job: string, server: JobState, changes: readonly Change[], focus: string | null): Promise<Figures | null>;
  /** Told of figures that the server found otherwise. */
  differs(job: string, version: number, where: string[]): void;
  subscribe(listener: () => void): () => void;
  readonly ready: boolean;
}

/** Figures worked out here, and for what. last: the last edit that they hold, null for none. */
export interface Here {
  key: string;
  last: string | null;
  figures: Figures;
}

/** The changes that wait; null where one of them is the server's to say: what it takes back, and what it goes back to, is known there alone. */
export function known(queue: readonly Item[]): Change[] | null {
  let mine = 0;
  for (const { act } of queue) {
    if (act.is === "changes") mine += 1;
    else if (act.is === "undo" && !act.again && mine > 0) mine -= 1;
    else return null;
  }
  return pending(queue);
}

/** What figures would be for that the server has not answered: null where its own are there. */
export function wanted(state: State): string | null {
  const { server, queue, focus } = state;
  if (!server) return null;
  const unseen = state.flow.is === "resting" && focus !== null && server.detail?.id !== focus;
  if (queue.length === 0 && !unseen) return null;
  return [server.tag, server.landed ?? "", focus ?? "", ...queue.map((i) => i.id)].join(" ");
}

/** The figures of what is on the screen, where they were worked out here. */
export const here = (state: State): Here | null =>
  state.here && state.here.key === wanted(state) && known(state.queue) ? state.here : null;

const CALLED: Record<string, string> = {
  meets: "meets",
  close: "is marginal",
  short: "fails",
  not_known: "is not known",
};

/**
 * What stands otherwise now that the server has all of it than it was shown here, in words; null where nothing does, or what was shown was not of that
 * very edit: then it is the edit that turned it.
 */
export function turned(mine: Here | null, item: string, answer: JobState): string | null {
  if (mine?.last !== item) return null;
  const shown = new Map(mine.figures.summaries.map((s) => [s.id, s.verdict]));
  const names = new Map(answer.installation.circuits.map((c) => [c.id, c.name || "a circuit"]));
  const other = answer.summaries
    .filter((s) => shown.has(s.id) && shown.get(s.id) !== s.verdict)
    .map((s) => `${names.get(s.id)} ${CALLED[s.verdict]}`);
  if (other.length === 0) return null;
  return `Your changes are saved. With what others changed meanwhile, this is different from what this device showed: ${other.join("; ")}.`;
}

/** Which figures worked out here the server found otherwise, once it answered the one edit that waited. */
export function differences(state: State, item: string, focus: string | null, answer: JobState): string[] {
  const mine = here(state);
  const alone =
    state.queue.length === 1 && state.queue[0]?.id === item && answer.version === (state.server?.version ?? 0) + 1;
  if (!mine || !alone || focus !== state.focus) return [];
  const told: string[] = [];
  const circuits = new Map(answer.summaries.map((s) => [s.id, JSON.stringify(s)]));
  for (const summary of mine.figures.summaries)
    if (circuits.get(summary.id) !== JSON.stringify(summary)) told.push(`circuit ${summary.id}`);
  for (const part of ["attention", "steps", "detail", "profile", "paths", "trouble", "stage"] as const)
    if (JSON.stringify(mine.figures[part]) !== JSON.stringify(answer[part])) told.push(part);
  return told;
}
