import { ApiError } from "../api/client";
import type { Change, JobState } from "../api/types";
import type { Remote, SendAnswer } from "./engine";
import { MOST_CHANGES } from "./queue";

/**
 * What an apprentice has changed and not handed in: kept in this browser, laid over the job by the server without being saved, until it is
 * handed in as a copy that a designer takes over.
 */
export class Proposal {
  private listeners = new Set<() => void>();
  private steps: readonly (readonly Change[])[];
  private undone: readonly (readonly Change[])[] = [];
  private readonly key: string;

  constructor(
    person: string,
    job: string,
    private storage: Pick<Storage, "getItem" | "setItem" | "removeItem"> = localStorage,
  ) {
    this.key = `mellow-span/proposal/${person}/${job}`;
    this.steps = read(storage.getItem(this.key));
  }

  get = () => this.steps;
  subscribe = (listener: () => void) => {
    this.listeners.add(listener);
    return () => this.listeners.delete(listener);
  };
  changes = (): Change[] => this.steps.flat();

  add(step: readonly Change[]) {
    this.undone = [];
    this.set([...this.steps, step]);
  }
  /** The steps as they would be with the last taken back, or with that done again; null where there is none. */
  other(again: boolean): readonly (readonly Change[])[] | null {
    const next = this.undone.at(-1);
    if (again) return next ? [...this.steps, next] : null;
    return this.steps.length > 0 ? this.steps.slice(0, -1) : null;
  }
  turn(again: boolean) {
    const steps = this.other(again);
    if (!steps) return;
    const last = this.steps.at(-1);
    this.undone = again ? this.undone.slice(0, -1) : last ? [...this.undone, last] : this.undone;
    this.set(steps);
  }
  clear() {
    this.undone = [];
    this.set([]);
  }

  private set(steps: readonly (readonly Change[])[]) {
    this.steps = steps;
    if (steps.length === 0) this.storage.removeItem(this.key);
    else this.storage.setItem(this.key, JSON.stringify(steps));
    for (const listener of this.listeners) listener();
  }
}

function read(text: string | null): readonly (readonly Change[])[] {
  try {
    const found = JSON.parse(text ?? "[]");
    return Array.isArray(found) && found.every(Array.isArray) ? found : [];
  } catch {
    return [];
  }
}

const refusal = (field: string, message: string) =>
  new ApiError(422, {
    message,
    errors: [{ field, given: "", allowed: message, message, change: null, kind: null, id: null }],
  });

/** The server as it answers somebody who proposes: nothing is saved, and the job is shown as it would be. */
export function proposing(remote: Remote, proposal: Proposal): Remote {
  const shown = async (job: string, changes: Change[], version: number, focus: string | null, signal: AbortSignal) => {
    const state =
      changes.length > 0
        ? await remote.attempt(job, changes, version, focus, signal)
        : ((await remote.look(job, focus, null, signal)) as JobState);
    return { ...state, landed: state.version };
  };
  return {
    ...remote,
    async look(job, focus, tag, signal) {
      const found = await remote.look(job, focus, tag, signal);
      const changes = proposal.changes();
      if (found === "unchanged" || changes.length === 0) return found;
      // What it cannot be laid over any more is shown as it is; handing it in then says why.
      return remote.attempt(job, changes, found.version, focus, signal).catch(() => found);
    },
    async send(job, item, base, _seen, focus, signal): Promise<SendAnswer> {
      const { act } = item;
      if (act.is === "back") throw refusal("back", "You can propose changes but not go back to an earlier version.");
      if (act.is === "undo") {
        const steps = proposal.other(act.again);
        if (!steps) throw refusal(act.again ? "redo" : "undo", "There is nothing of this proposal left.");
        const state = await shown(job, steps.flat(), base, focus, signal);
        proposal.turn(act.again);
        return { is: "landed", state };
      }
      const before = proposal.changes();
      if (before.length + act.changes.length > MOST_CHANGES)
        throw refusal("changes", `A proposal holds ${MOST_CHANGES} changes at most: submit this one first.`);
      try {
        const state = await shown(job, [...before, ...act.changes], base, focus, signal);
        proposal.add(act.changes);
        return { is: "landed", state };
      } catch (error) {
        if (!(error instanceof ApiError)) throw error;
        // The refusal counts the changes before this step as well.
        const errors = error.refusal.errors.map((e) => ({
          ...e,
          change: e.change == null ? null : e.change - before.length,
        }));
        throw new ApiError(error.status, { ...error.refusal, errors });
      }
    },
  };
}
