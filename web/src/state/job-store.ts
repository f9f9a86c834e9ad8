import { ApiError, Away, type Edit, openJob, sendEdit, who } from "../api/client";
import type { Change, FieldError, Installation, JobState } from "../api/types";
import { applied } from "./changes";

/**
 * One open job: the state the server last answered, and the edits it has not answered yet.
 *
 * An edit shows at once, is written to this browser's storage before it is sent, and leaves it only when the server has answered. A
 * batch keeps its identity over every try, so that one whose answer was lost is not applied twice.
 */
export interface Batch {
  edit_id: string;
  /** The version it was first sent on; null until then. */
  version: number | null;
  changes: Change[];
}

export type Phase =
  | { is: "loading" }
  | { is: "saved" }
  | { is: "saving" }
  | { is: "away"; since: number }
  | { is: "stale"; state: JobState }
  | { is: "signed-out" }
  | { is: "gone"; why: string };

export interface Snapshot {
  state: JobState | null;
  /** The inputs with every unanswered edit laid over. */
  inputs: Installation | null;
  name: string;
  phase: Phase;
  refused: FieldError | null;
  /** Whether the figures shown belong to inputs that have changed since. */
  behind: boolean;
  unsent: number;
}

const KEY = "mellow-span/unsent/";
const RETRY_MS = 2000;

export class JobStore {
  private state: JobState | null = null;
  private outbox: Batch[];
  private phase: Phase = { is: "loading" };
  private refused: FieldError | null = null;
  private focus: string | null = null;
  private sending = false;
  private preview: JobState | null = null;
  private previewing = false;
  private wanted: Change[] | null = null;
  private retry: ReturnType<typeof setTimeout> | undefined;
  private renewed = false;
  private listeners = new Set<() => void>();
  private shown: Snapshot;

  constructor(
    readonly id: string,
    private storage: Pick<Storage, "getItem" | "setItem" | "removeItem"> = localStorage,
  ) {
    this.outbox = JSON.parse(storage.getItem(KEY + id) ?? "[]") as Batch[];
    this.shown = this.snapshot();
    globalThis.addEventListener?.("online", this.again);
  }

  close() {
    clearTimeout(this.retry);
    globalThis.removeEventListener?.("online", this.again);
  }

  subscribe = (listener: () => void) => {
    this.listeners.add(listener);
    return () => this.listeners.delete(listener);
  };

  get = () => this.shown;

  /** Open a circuit: the server answers with its full result from now on. */
  async look(focus: string | null) {
    if (this.focus === focus && this.state) return;
    this.focus = focus;
    await this.load();
  }

  async load() {
    try {
      const state = await openJob(this.id, this.focus);
      this.state = state;
      if (this.phase.is !== "stale") this.phase = { is: "saved" };
      this.tell();
      this.flush();
    } catch (error) {
      await this.failed(error);
    }
  }

  edit(changes: Change[]) {
    if (changes.length === 0) return;
    this.refused = null;
    this.stopTrying();
    const last = this.outbox.at(-1);
    if (last && last.version === null) last.changes.push(...changes);
    else this.outbox.push({ edit_id: crypto.randomUUID(), version: null, changes: [...changes] });
    this.keep();
    this.tell();
    this.flush();
  }

  /** Show what changes would do without saving them: while a span's edge is dragged. The newest wish is asked, one at a time. */
  async tryOut(changes: Change[]) {
    this.wanted = changes;
    if (this.previewing || !this.state || this.outbox.length > 0) return;
    this.previewing = true;
    while (this.wanted) {
      const now = this.wanted;
      this.wanted = null;
      const edit = {
        edit_id: crypto.randomUUID(),
        version: this.state.version,
        changes: now,
        focus: this.focus,
        dry_run: true,
      };
      const answer = await sendEdit(this.id, edit).catch(() => null);
      // A real edit meanwhile has made this answer worthless.
      if (!this.previewing) return;
      if (answer && !answer.stale) this.preview = answer.state;
      this.tell();
    }
    this.previewing = false;
  }

  private stopTrying() {
    this.wanted = null;
    this.previewing = false;
    this.preview = null;
  }

  dismissRefusal = () => {
    this.refused = null;
    this.tell();
  };

  /** Answer to a stale edit: lay mine over the state that came with the refusal. */
  keepMine = () => {
    if (this.phase.is !== "stale") return;
    this.state = this.phase.state;
    this.outbox = this.outbox.map((b) => ({ ...b, edit_id: crypto.randomUUID(), version: null }));
    this.phase = { is: "saving" };
    this.keep();
    this.tell();
    this.flush();
  };

  /** Answer to a stale edit: let mine go. */
  takeTheirs = () => {
    if (this.phase.is !== "stale") return;
    this.state = this.phase.state;
    this.outbox = [];
    this.phase = { is: "saved" };
    this.keep();
    this.tell();
  };

  again = () => {
    clearTimeout(this.retry);
    if (this.state) this.flush();
    else void this.load();
  };

  private async flush() {
    const batch = this.outbox[0];
    if (this.sending || !batch || !this.state || this.phase.is === "stale") return;
    this.sending = true;
    batch.version ??= this.state.version;
    if (this.phase.is !== "away") this.phase = { is: "saving" };
    this.keep();
    this.tell();
    try {
      const focus = this.focus;
      const edit: Edit = {
        edit_id: batch.edit_id,
        version: batch.version,
        changes: batch.changes,
        focus,
        dry_run: false,
      };
      const answer = await sendEdit(this.id, edit);
      if (answer.stale) this.phase = { is: "stale", state: answer.state };
      else this.landed(answer.state, focus);
    } catch (error) {
      await this.failed(error);
    }
    this.sending = false;
    this.keep();
    this.tell();
    if (this.phase.is === "saving") this.flush();
  }

  private landed(state: JobState, focus: string | null) {
    this.outbox.shift();
    this.renewed = false;
    // The page has moved on to another circuit meanwhile: keep its detail, take the rest.
    const detail = focus === this.focus ? state.detail : (this.state?.detail ?? null);
    this.state = { ...state, detail };
    this.phase = this.outbox.length > 0 ? { is: "saving" } : { is: "saved" };
  }

  private async failed(error: unknown) {
    if (error instanceof Away) {
      this.phase = { is: "away", since: this.phase.is === "away" ? this.phase.since : Date.now() };
      clearTimeout(this.retry);
      this.retry = setTimeout(this.again, RETRY_MS);
    } else if (error instanceof ApiError && (error.status === 401 || error.status === 403)) {
      // 403 is a token gone stale, with or without the session: asking who this is brings a new one.
      await this.askWho(error.status === 403);
    } else if (error instanceof ApiError && error.status === 404) {
      this.phase = { is: "gone", why: error.message };
    } else if (error instanceof ApiError && this.outbox.length > 0) {
      this.refuse(error);
    } else {
      throw error;
    }
    this.tell();
  }

  private async askWho(mayGoOn: boolean) {
    const found = await who().catch(() => null);
    if (found?.signed_in && mayGoOn && !this.renewed) {
      // The phase is still "saving": the flush under way tries once more, with the new token.
      this.renewed = true;
      return;
    }
    this.phase = { is: "signed-out" };
  }

  /** Take the refused change out, keep the others, and say at which field it was. */
  private refuse(error: ApiError) {
    const first = error.refusal.errors[0];
    const batch = this.outbox[0];
    this.refused = first ?? {
      field: "",
      given: "",
      allowed: "",
      message: error.message,
      change: null,
      kind: null,
      id: null,
    };
    if (batch && first?.change != null && batch.changes.length > 1) {
      batch.changes.splice(first.change, 1);
      batch.edit_id = crypto.randomUUID();
      batch.version = null;
    } else {
      this.outbox.shift();
    }
    this.phase = this.outbox.length > 0 ? { is: "saving" } : { is: "saved" };
  }

  private keep() {
    try {
      if (this.outbox.length > 0) this.storage.setItem(KEY + this.id, JSON.stringify(this.outbox));
      else this.storage.removeItem(KEY + this.id);
    } catch {
      // Storage may be full or forbidden: the edits stay in memory and are still sent.
    }
  }

  private snapshot(): Snapshot {
    const state = this.preview ?? this.state;
    const changes = this.outbox.flatMap((b) => b.changes);
    const renamed = changes.filter((c) => c.kind === "job" && c.fields?.name).at(-1);
    return {
      state,
      inputs: state && changes.reduce(applied, state.installation),
      name: renamed?.fields ? String(renamed.fields.name) : (state?.name ?? ""),
      phase: this.phase,
      refused: this.refused,
      behind: changes.length > 0,
      unsent: changes.length,
    };
  }

  private tell() {
    this.shown = this.snapshot();
    for (const listener of this.listeners) listener();
  }
}
