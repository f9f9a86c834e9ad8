import type { ApiError } from "../api/client";
import type { Change, ClashAnswer, FieldError, Installation, JobState } from "../api/types";
import { applied } from "./changes";
import { differences, here, known, turned, type Works, wanted } from "./here";
import { failureOf, Machine, type Shared } from "./machine";
import { pending, piecesOf } from "./queue";
import { step } from "./reducer";
import type { Shelf } from "./shelf";
import {
  begin,
  type Choice,
  type Effect,
  type Event,
  type Flow,
  type Item,
  type Note,
  type Parked,
  type State,
} from "./state";
import type { Tabs } from "./tabs";

/** What the engine asks of the server. Every call can be given up. */
export interface Remote {
  look(job: string, focus: string | null, tag: string | null, signal: AbortSignal): Promise<JobState | "unchanged">;
  send(
    job: string,
    item: Item,
    base: number,
    seen: readonly number[],
    focus: string | null,
    signal: AbortSignal,
  ): Promise<SendAnswer>;
  attempt(
    job: string,
    changes: readonly Change[],
    version: number,
    focus: string | null,
    signal: AbortSignal,
  ): Promise<JobState>;
  who(signal: AbortSignal): Promise<string | null>;
  /** The job as it was last looked at on this device, for when there is no server. */
  recall?(job: string, focus: string | null): Promise<JobState | null>;
}
export type SendAnswer = { is: "landed"; state: JobState } | { is: "clashed"; answer: ClashAnswer };

/** What the page shows of a job. */
export interface Snapshot {
  state: JobState | null;
  /** The inputs with every unanswered edit laid over. */
  inputs: Installation | null;
  name: string;
  flow: Flow;
  unsent: number;
  /** Whether the figures shown belong to inputs that have changed since. */
  behind: boolean;
  /** Whether the figures shown were worked out on this device, and the server has not confirmed them yet. */
  here: boolean;
  /** Which inputs the figures shown are of: what hangs on them is asked for anew when this changes. */
  asOf: string;
  /** Whether figures and inputs belong together, so that more can be asked about them. */
  settled: boolean;
  parked: readonly Parked[];
  refused: FieldError | null;
  said: string | null;
  keeps: boolean;
}

const POLL_MS = 3000;

/** One open job in one tab. */
export class Engine extends Machine<State, Event, Effect, Snapshot, Note> {
  private poll: ReturnType<typeof setInterval> | undefined;
  /** What was asked to be worked out here last. */
  private wished: string | null = null;
  private unhear: (() => void) | undefined;

  constructor(
    readonly job: string,
    readonly person: string,
    private remote: Remote,
    private shelf: Shelf,
    tabs: Tabs<Note>,
    private fresh: () => string = () => crypto.randomUUID(),
    private earlier: () => Parked[] = () => [],
    private works: Works | null = null,
  ) {
    super(begin(job, person), tabs, remote);
  }

  protected step(state: State, event: Event) {
    return step(state, event);
  }

  /** Read what is kept, hear the other tabs, and look at the job. */
  protected override async start() {
    this.poll = setInterval(() => {
      if (globalThis.document?.visibilityState !== "hidden") this.take({ is: "tick" });
    }, POLL_MS);
    this.unhear = this.works?.subscribe(() => this.workOut());
    await super.start();
    this.take({ is: "focus", focus: this.state.focus });
  }

  /** Step on, and have worked out here what the server has not answered yet. */
  protected override take(event: Event | Shared<Note>) {
    if (event.is === "landed") {
      const where = differences(this.state, event.item, event.focus, event.state);
      if (where.length > 0) this.works?.differs(this.job, event.state.version, where);
    }
    super.take(event);
    this.workOut();
  }

  /** What stands otherwise than it was shown here, told once all that waited is with the server. */
  private turned(item: string, answer: JobState): string | null {
    return this.state.queue.length > 1 ? null : turned(this.state.here, item, answer);
  }

  private workOut() {
    const { server, queue, focus } = this.state;
    if (!this.works || !server || this.leaving.signal.aborted) return;
    const changes = known(queue);
    this.works.stands(this.job, server, changes ?? []);
    const key = changes && wanted(this.state);
    if (!this.works.ready || key === this.wished) return;
    this.wished = key;
    if (!key) return;
    void this.works.figures(this.job, server, changes, focus).then((figures) => {
      if (figures && key === this.wished)
        this.take({ is: "worked-out", here: { key, last: queue.at(-1)?.id ?? null, figures } });
    });
  }

  protected async readShelf() {
    try {
      this.take({ is: "shelved", ...(await this.shelf.read()) });
    } catch {
      this.take({ is: "shelf-failed" });
    }
    for (const parked of this.earlier()) this.setAside(parked);
  }

  override close() {
    super.close();
    this.unhear?.();
    this.works?.closes(this.job);
    clearInterval(this.poll);
  }

  edit = (changes: readonly Change[]) => {
    if (changes.length === 0) return;
    const ids = Array.from({ length: piecesOf(changes) }, this.fresh);
    this.take({ is: "typed", changes, ids, now: Date.now() });
  };
  undo = () => this.take({ is: "undo", again: false, id: this.fresh(), now: Date.now() });
  redo = () => this.take({ is: "undo", again: true, id: this.fresh(), now: Date.now() });
  back = (to: number) => this.take({ is: "back", to, id: this.fresh(), now: Date.now() });
  look = (focus: string | null) => this.take({ is: "focus", focus });
  /** Look at the job anew, whatever is there. */
  reload = () => this.take({ is: "reload" });
  tryOut = (changes: readonly Change[]) => this.take({ is: "try", changes });
  tryNoMore = () => this.take({ is: "try-ended" });
  resolve = (choices: readonly Choice[]) => this.take({ is: "resolve", choices, id: this.fresh() });
  retryParked = (id: string) => this.take({ is: "retry-parked", id, fresh: this.fresh(), now: Date.now() });
  /** Keep what is not accepted where the person sees it. */
  setAside = (parked: Parked) => this.take({ is: "aside", parked });
  letGo = (id: string) => this.take({ is: "let-go", id });
  understood = () => this.take({ is: "understood" });

  /** An answer that cannot be taken in counts as one that did not come. */
  protected override threw(event: Event, error: unknown) {
    super.threw(event, error);
    if (event.is === "landed" || event.is === "clashed" || event.is === "refused")
      this.take({ is: "failed", item: event.item, failure: "trouble", why: String(error), now: Date.now() });
  }

  protected do(effect: Effect) {
    switch (effect.do) {
      case "send":
        return void this.send(effect.item, effect.base, effect.seen, effect.focus);
      case "look":
        return void this.looking(effect.n, effect.focus, effect.tag);
      case "keep":
        return this.stored(this.shelf.keep(effect.item), { is: "kept", item: effect.item });
      case "forget":
        return this.stored(this.shelf.forget(effect.id, effect.landed, effect.last), {
          is: "forgot",
          id: effect.id,
          landed: effect.landed,
        });
      case "park":
        return this.stored(this.shelf.park(effect.parked), { is: "parked", parked: effect.parked });
      case "unpark":
        return this.stored(this.shelf.unpark(effect.id), { is: "unparked", id: effect.id });
      case "try":
        return void this.attempt(effect.n, effect.changes, effect.version, effect.focus);
    }
  }

  private stored(done: Promise<void>, note: Note) {
    done.catch(() => this.take({ is: "shelf-failed" }));
    this.tabs.tell(note);
  }

  private async send(item: Item, base: number, seen: readonly number[], focus: string | null) {
    const ids = [this.fresh(), this.fresh()] as const;
    try {
      const answer = await this.remote.send(this.job, item, base, seen, focus, this.leaving.signal);
      if (answer.is === "landed")
        this.take({
          is: "landed",
          item: item.id,
          focus,
          state: answer.state,
          turned: this.turned(item.id, answer.state),
        });
      else this.take({ is: "clashed", item: item.id, answer: answer.answer, id: ids[0] });
    } catch (error) {
      const failure = failureOf(error);
      if (failure)
        this.take({ is: "failed", item: item.id, failure, why: String((error as Error).message), now: Date.now() });
      else {
        const refusal = (error as ApiError).refusal;
        this.take({ is: "refused", item: item.id, error: refusal.errors[0] ?? null, message: refusal.detail, ids });
      }
    }
  }

  private async looking(n: number, focus: string | null, tag: string | null) {
    try {
      const answer = await this.remote.look(this.job, focus, tag, this.leaving.signal);
      if (answer !== "unchanged") this.take({ is: "looked", n, focus, state: answer });
    } catch (error) {
      const failure = failureOf(error) ?? "trouble";
      if (failure === "away" && !this.state.server) {
        const last = await this.remote.recall?.(this.job, focus).catch(() => null);
        if (last) this.take({ is: "looked", n, focus, state: last });
      }
      this.take({ is: "look-failed", n, failure, why: String((error as Error).message), now: Date.now() });
    }
  }

  private async attempt(n: number, changes: readonly Change[], version: number, focus: string | null) {
    const server = this.state.server;
    const state = await this.remote.attempt(this.job, changes, version, focus, this.leaving.signal).catch(async () => {
      const figures = server && (await this.works?.figures(this.job, server, changes, focus));
      return figures ? { ...server, ...figures, installation: applied(server.installation, changes) } : null;
    });
    this.take({ is: "tried", n, state });
  }

  protected show(from: State): Snapshot {
    const mine = from.trial ? null : here(from);
    const state = mine && from.server ? { ...from.server, ...mine.figures } : (from.trial?.state ?? from.server);
    const changes = pending(from.queue);
    const inputs = state && applied(state.installation, changes);
    return {
      state,
      inputs,
      name: inputs?.name ?? "",
      flow: from.flow,
      unsent: from.queue.reduce((n, i) => n + (i.act.is === "changes" ? i.act.changes.length : 1), 0),
      behind: from.queue.length > 0 && !mine,
      here: mine !== null,
      asOf: mine ? mine.key : String(from.server?.version ?? ""),
      settled: state !== null && (from.queue.length === 0 || mine !== null),
      parked: from.parked,
      refused: from.refused,
      said: from.said,
      keeps: from.keeps,
    };
  }
}
