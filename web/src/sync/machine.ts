import { ApiError, Away, Broken } from "../api/client";
import type { Tabs } from "./tabs";
import type { Failure, Passing, Reaching } from "./trouble";

/** What every kind of unsent work meets, beside what is its own. */
export type Shared<N> =
  | { is: "elected" }
  | { is: "unseated" }
  | { is: "wake"; now: number }
  | { is: "knew"; person: string | null; now: number }
  | { is: "who-failed"; now: number }
  | { is: "shelf-failed" }
  | { is: "elsewhere"; note: N };

/**
 * Unsent work of one person on one job in one tab: a pure reducer in the middle, with storage, the other tabs, the server and the clock at its edge.
 * Edits of the design and entries of the site log each have a reducer, a shelf and calls of their own; how they travel is this.
 */
export abstract class Machine<S extends Reaching, E extends { is: string }, F extends { do: string }, Shown, N> {
  private shown: Shown | undefined;
  private listeners = new Set<() => void>();
  private timer: ReturnType<typeof setTimeout> | undefined;
  private ready: Promise<void> | null = null;
  protected leaving = new AbortController();
  onStranger: () => void = () => {};

  constructor(
    protected state: S,
    protected tabs: Tabs<N>,
    private asked: { who(signal: AbortSignal): Promise<string | null> },
  ) {}

  protected abstract step(state: S, event: E | Shared<N>): readonly [S, readonly (F | Passing)[]];
  protected abstract show(state: S): Shown;
  protected abstract do(effect: F): void;
  /** Read what is kept, and take it in. */
  protected abstract readShelf(): Promise<void>;
  /** What was taken in threw: the state is as it was before it. */
  protected threw(_event: E | Shared<N>, error: unknown) {
    console.error(error);
  }

  /** Read what is kept, hear the other tabs, ask to be the one that sends; once. */
  open(): Promise<void> {
    this.ready ??= this.start();
    return this.ready;
  }

  protected async start() {
    globalThis.addEventListener?.("online", this.again);
    this.tabs.hear((note) => this.take({ is: "elsewhere", note }));
    await this.readShelf();
    this.tabs.elect(
      // Whoever sent before may have gone in the middle of it: what is kept is the truth.
      () => void this.readShelf().then(() => this.take({ is: "elected" })),
      () => this.take({ is: "unseated" }),
    );
  }

  close() {
    this.leaving.abort();
    clearTimeout(this.timer);
    globalThis.removeEventListener?.("online", this.again);
    this.tabs.close();
  }

  subscribe = (listener: () => void) => {
    this.listeners.add(listener);
    return () => void this.listeners.delete(listener);
  };
  get = (): Shown => {
    this.shown ??= this.show(this.state);
    return this.shown;
  };
  /** The server may be there again: ask it at once. */
  again = () => this.take({ is: "wake", now: Date.now() });
  /** Somebody signed in on this page. */
  signedIn = (person: string | null) => this.take({ is: "knew", person, now: Date.now() });

  /** Step on. A step that throws leaves the state as it was. */
  protected take(event: E | Shared<N>) {
    if (this.leaving.signal.aborted) return;
    let effects: readonly (F | Passing)[];
    try {
      const [next, found] = this.step(this.state, event);
      const shown = this.show(next);
      this.state = next;
      this.shown = shown;
      effects = found;
    } catch (error) {
      return this.threw(event, error);
    }
    for (const effect of effects) this.pass(effect);
    for (const listener of this.listeners) listener();
  }

  private pass(effect: F | Passing) {
    const passing = effect as Passing;
    switch (passing.do) {
      case "wake":
        clearTimeout(this.timer);
        this.timer = setTimeout(this.again, passing.after);
        return;
      case "who":
        return void this.askWho();
      case "stranger":
        return this.onStranger();
      default:
        return this.do(effect as F);
    }
  }

  private async askWho() {
    try {
      this.take({ is: "knew", person: await this.asked.who(this.leaving.signal), now: Date.now() });
    } catch {
      this.take({ is: "who-failed", now: Date.now() });
    }
  }
}

/** Answers that are none yet: too slow, too early, too many at once. */
const BUSY = [408, 425, 429];

/** Sort a failed call: away, broken, not allowed, gone; undefined for a refusal, which is an answer. */
export function failureOf(error: unknown): Failure | undefined {
  if (error instanceof Away) return "away";
  if (!(error instanceof ApiError)) return error instanceof Broken ? "trouble" : "away";
  // What a role may not do is an answer: signing in anew changes nothing about it.
  if (error.status === 403 && error.refusal.errors[0]?.field === "role") return undefined;
  if (error.status === 401 || error.status === 403) return "denied";
  if (error.status === 404) return "gone";
  if (BUSY.includes(error.status)) return "away";
  return error.status < 500 ? undefined : "trouble";
}
