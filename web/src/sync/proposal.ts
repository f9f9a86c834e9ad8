import { ApiError } from "../api/client";
import type { Change, JobState } from "../api/types";
import { stored } from "../ui/remembered";
import type { Remote, SendAnswer } from "./engine";
import { MOST_CHANGES } from "./queue";
import { type ProposalShelf, type ProposedStep, proposalShelfOf } from "./shelf";
import type { Parked } from "./state";

/** A proposal as a page shows it. keeps: whether it outlives the page. */
export interface Proposed {
  steps: readonly ProposedStep[];
  keeps: boolean;
}

/**
 * What an apprentice has changed and not submitted: kept in this browser beside the edits that wait, one for all tabs, laid over the job by the server
 * without being saved, until it is submitted as a copy that a designer takes over.
 */
export class Proposal {
  private listeners = new Set<() => void>();
  private now: Proposed = { steps: [], keeps: true };
  private undone: readonly ProposedStep[] = [];
  private readonly channel: BroadcastChannel | null;
  /** Another tab changed it: what is shown has to be laid out anew. */
  onElsewhere: () => void = () => {};
  /** A step that the job no longer takes. */
  onAside: (parked: Parked) => void = () => {};
  /** Once what is kept was read. */
  readonly ready: Promise<void>;

  constructor(
    person: string,
    job: string,
    private shelf: ProposalShelf = proposalShelfOf(person, job),
    old: Pick<Storage, "getItem" | "removeItem"> | null = stored(),
  ) {
    this.channel =
      "BroadcastChannel" in globalThis ? new BroadcastChannel(`mellow-span/proposal/${person}/${job}`) : null;
    this.channel?.addEventListener("message", () => void this.read().then(() => this.onElsewhere()));
    this.ready = this.begin(old, `mellow-span/proposal/${person}/${job}`);
  }

  get = () => this.now;
  subscribe = (listener: () => void) => {
    this.listeners.add(listener);
    return () => this.listeners.delete(listener);
  };
  changes = (): Change[] => this.now.steps.flatMap((s) => s.changes);

  async add(id: string, changes: readonly Change[]) {
    this.undone = [];
    await this.change((steps) => (steps.some((s) => s.id === id) ? steps : [...steps, { id, changes }]));
  }
  /** The step that would be taken back, or done again; null where there is none. */
  other(again: boolean): ProposedStep | null {
    return (again ? this.undone.at(-1) : this.now.steps.at(-1)) ?? null;
  }
  async turn(again: boolean) {
    const step = this.other(again);
    if (!step) return;
    this.undone = again ? this.undone.slice(0, -1) : [...this.undone, step];
    await this.change((steps) => (again ? [...steps, step] : steps.filter((s) => s.id !== step.id)));
  }
  async clear() {
    this.undone = [];
    await this.change(() => []);
  }
  /** Take a step out that the job no longer takes, with why: it is kept where whoever proposed it sees it. */
  async aside(step: ProposedStep, why: string) {
    const item = { id: step.id, seq: 0, base: 1, act: { is: "changes" as const, changes: step.changes }, tries: 0 };
    this.onAside({ item, why, error: null });
    await this.change((steps) => steps.filter((s) => s.id !== step.id));
  }
  close() {
    this.channel?.close();
  }

  /** What an earlier version of this page kept in its own way is taken over once. */
  private async begin(old: Pick<Storage, "getItem" | "removeItem"> | null, key: string) {
    let earlier: readonly ProposedStep[] = [];
    try {
      earlier = stepsIn(old?.getItem(key) ?? null);
    } catch {
      // A storage that is denied has kept nothing.
    }
    if (earlier.length === 0) return this.read();
    await this.change((steps) => [...earlier, ...steps]);
    if (this.now.keeps) old?.removeItem(key);
  }

  private async read() {
    if (!this.now.keeps) return;
    try {
      this.show({ steps: await this.shelf.read(), keeps: true });
    } catch {
      this.show({ ...this.now, keeps: false });
    }
  }

  private async change(how: (steps: readonly ProposedStep[]) => readonly ProposedStep[]) {
    if (this.now.keeps) {
      try {
        this.show({ steps: await this.shelf.change(how), keeps: true });
        this.channel?.postMessage("changed");
        return;
      } catch {
        // Full or denied: it holds for this page, which says so.
      }
    }
    this.show({ steps: how(this.now.steps), keeps: false });
  }

  private show(next: Proposed) {
    this.now = next;
    for (const listener of this.listeners) listener();
  }
}

function stepsIn(text: string | null): readonly ProposedStep[] {
  try {
    const found: unknown = JSON.parse(text ?? "[]");
    if (!Array.isArray(found) || !found.every(Array.isArray)) return [];
    return found.map((changes) => ({ id: crypto.randomUUID(), changes }));
  } catch {
    return [];
  }
}

const refusal = (field: string, message: string) =>
  new ApiError(422, {
    detail: message,
    errors: [{ field, given: "", allowed: message, message, change: null, kind: null, id: null }],
  });

/** Which step a refusal is about: the server counts the changes of all. */
function stepOf(steps: readonly ProposedStep[], change: number | null | undefined): ProposedStep | undefined {
  let before = 0;
  for (const step of steps) {
    before += step.changes.length;
    if (change != null && change < before) return step;
  }
  return undefined;
}

/** The server as it answers somebody who proposes: nothing is saved, and the job is shown as it would be. */
export function proposing(remote: Remote, proposal: Proposal): Remote {
  const shown = async (job: string, changes: Change[], version: number, focus: string | null, signal: AbortSignal) => {
    const state =
      changes.length > 0
        ? await remote.attempt(job, changes, version, focus, signal)
        : ((await remote.look(job, focus, null, signal)) as JobState);
    return { ...state, landed: state.version };
  };
  /** Lay all over a version of the job; a step it no longer takes is put aside, alone. */
  const laid = async (job: string, found: JobState, focus: string | null, signal: AbortSignal): Promise<JobState> => {
    for (;;) {
      const { steps } = proposal.get();
      if (steps.length === 0) return found;
      try {
        return await remote.attempt(job, proposal.changes(), found.version, focus, signal);
      } catch (error) {
        // Without a server, or where somebody else was quicker, what is proposed stays as it is: the next look tells.
        if (!(error instanceof ApiError) || error.status !== 422) return found;
        const of = error.refusal.errors[0];
        const step = stepOf(steps, of?.change) ?? steps.at(-1);
        if (step) await proposal.aside(step, of?.message || error.refusal.detail);
      }
    }
  };
  return {
    ...remote,
    async look(job, focus, tag, signal) {
      await proposal.ready;
      const found = await remote.look(job, focus, tag, signal);
      return found === "unchanged" ? found : laid(job, found, focus, signal);
    },
    async send(job, item, base, _seen, focus, signal): Promise<SendAnswer> {
      await proposal.ready;
      const { act } = item;
      if (act.is === "back") throw refusal("back", "You can propose changes but not go back to an earlier version.");
      const before = proposal.changes();
      if (act.is === "undo") {
        const step = proposal.other(act.again);
        if (!step) throw refusal(act.again ? "redo" : "undo", "There is nothing of this proposal left.");
        const left = proposal.get().steps.filter((s) => s.id !== step.id);
        const changes = act.again ? [...before, ...step.changes] : left.flatMap((s) => s.changes);
        const state = await shown(job, changes, base, focus, signal);
        await proposal.turn(act.again);
        return { is: "landed", state };
      }
      if (before.length + act.changes.length > MOST_CHANGES)
        throw refusal("changes", `A proposal holds ${MOST_CHANGES} changes at most: submit this one first.`);
      try {
        const state = await shown(job, [...before, ...act.changes], base, focus, signal);
        await proposal.add(item.id, act.changes);
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
