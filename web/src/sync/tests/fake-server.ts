import { ApiError, Away, Broken, type SendAnswer } from "../../api/client";
import defaults from "../../api/defaults.gen.json";
import type { Change, ClashAnswer, FieldError, Installation, JobState } from "../../api/types";
import { apply } from "../changes";
import type { Remote } from "../engine";
import { MOST_CHANGES } from "../queue";
import type { Item } from "../state";

/** A server for tests: one job, versions, merging, identities applied once, and failures on order. */
export type Mood =
  | "well"
  | "away"
  /** It takes the edit, and its answer is lost. */
  | "lost"
  | "broken"
  | "denied"
  | "gone"
  | { refuse: Partial<FieldError> | null }
  | { hold: Promise<void> };

interface Saved {
  id: string;
  person: string;
  changes: readonly Change[];
  version: number;
}

const touched = (changes: readonly Change[]) =>
  new Set(
    changes.flatMap((c) =>
      c.op === "set" ? Object.keys(c.fields ?? {}).map((f) => `${c.kind} ${c.id} ${f}`) : [`${c.kind} ${c.id} exists`],
    ),
  );

export const BOARD = "b";
export const house = (name = "House"): Installation =>
  ({
    name,
    note: "",
    ruleset: "bs7671",
    supply: {},
    boards: [{ ...defaults.board, id: BOARD, name: "Board" }],
    circuits: [],
    routes: [],
    stages: [],
    dismissals: [],
  }) as unknown as Installation;

export class FakeServer {
  version = 1;
  epoch = "first";
  putBack = "";
  installation = house();
  log: Saved[] = [];
  /** Moods for the next calls that send, and for the next that look; then it is well. */
  moods: Mood[] = [];
  looks: Mood[] = [];
  /** Refuse a change for good, by what it is. */
  impossible: (change: Change) => FieldError | null = () => null;
  signedIn: string | null = "me";
  largest = 0;
  asked = 0;

  state(focus: string | null = null, landed: number | null = null): JobState {
    const detail = focus ? ({ id: focus } as JobState["detail"]) : null;
    return {
      id: "j", version: this.version, tag: `${this.epoch}.${this.version}.0`, epoch: this.epoch, put_back: this.putBack, cells: 0, landed, edition: "", installation: this.installation, summaries: [], attention: [], steps: [], detail,
      profile: null,
      paths: [], trouble: "", stage: "", unfit: [],
    }; // biome-ignore format: one line
  }

  /** Another person edits, past this browser. */
  other(changes: readonly Change[], person = "them") {
    this.commit(`o${this.version}`, person, changes);
  }

  /** Put a backup of an earlier version in the place of what is stored. */
  restore(version: number, at = "2026-03-05T14:02:00+00:00") {
    this.log = this.log.filter((s) => s.version <= version);
    this.installation = this.log.reduce((job, saved) => saved.changes.reduce(apply, job), house());
    [this.version, this.epoch, this.putBack] = [version, `after ${this.epoch}`, at];
  }

  private commit(id: string, person: string, changes: readonly Change[]) {
    this.installation = changes.reduce(apply, this.installation);
    this.version += 1;
    this.log.push({ id, person, changes, version: this.version });
  }

  remoteOf(person: string): Remote {
    return {
      look: async (_, focus, tag, signal) => {
        this.asked += 1;
        await mind(this.looks.shift() ?? "well", signal);
        if (this.signedIn !== person) throw new ApiError(401, { detail: "signed out", errors: [] });
        return tag === `W/"${this.state().tag}-${focus ?? ""}"` ? "unchanged" : this.state(focus);
      },
      send: async (_, item, base, seen, focus, signal) => {
        const mood = this.moods.shift() ?? "well";
        if (mood !== "lost") await mind(mood, signal);
        if (this.signedIn !== person) throw new ApiError(401, { detail: "signed out", errors: [] });
        if (item.epoch && item.epoch !== this.epoch)
          throw new ApiError(422, { detail: "another history", errors: [{ field: "epoch" } as FieldError] });
        const answer = this.receive(person, item, base, seen, focus);
        if (mood === "lost") throw new Away("the answer was lost");
        return answer;
      },
      attempt: async (_, changes, __, focus) => ({
        ...this.state(focus),
        installation: changes.reduce(apply, this.installation),
      }),
      who: async () => this.signedIn,
    };
  }

  private receive(person: string, item: Item, base: number, seen: readonly number[], focus: string | null): SendAnswer {
    const before = this.log.find((s) => s.id === item.id);
    if (before) return { is: "landed", state: this.state(focus, before.version) };
    if (item.act.is !== "changes") return this.takeBack(person, item, focus);
    const { changes } = item.act;
    this.largest = Math.max(this.largest, changes.length);
    if (changes.length > MOST_CHANGES) throw new ApiError(422, { detail: "too many", errors: [] });
    const theirs = this.log.filter((s) => s.version > base && !seen.includes(s.version));
    const mine = touched(changes);
    const clash = theirs.find((s) => [...touched(s.changes)].some((t) => mine.has(t)));
    if (clash) return { is: "clashed", answer: this.clashOn(changes, clash) };
    changes.forEach((change, at) => {
      const error = this.impossible(change);
      if (error) throw new ApiError(422, { detail: error.message, errors: [{ ...error, change: at }] });
    });
    this.commit(item.id, person, changes);
    return { is: "landed", state: this.state(focus, this.version) };
  }

  private takeBack(person: string, item: Item, focus: string | null): SendAnswer {
    const back = this.log.filter((s) => s.person === person && !this.log.some((u) => u.id === `undone ${s.id}`)).at(-1);
    if (!back) throw new ApiError(422, { detail: "nothing", errors: [{ field: "undo" } as FieldError] });
    this.commit(item.id, person, []);
    this.log.push({ id: `undone ${back.id}`, person: "", changes: [], version: 0 });
    return { is: "landed", state: this.state(focus, this.version) };
  }

  private clashOn(changes: readonly Change[], clash: Saved): ClashAnswer {
    const theirs = touched(clash.changes);
    const clashes = changes.flatMap((c, at) =>
      [...touched([c])]
        .filter((t) => theirs.has(t))
        .map((t) => {
          const field = t.split(" ")[2] ?? "";
          const other = clash.changes.find((x) => touched([x]).has(t));
          const said = (x: Change | undefined) => String((x?.fields as Record<string, unknown>)?.[field] ?? "");
          return {
            change: at, why: "value", kind: c.kind, id: c.id, name: "", field, label: field, base_told: "", mine_told: said(c), theirs_told: said(other), by: clash.person, at: "",
          } as ClashAnswer["clashes"][number]; // biome-ignore format: one line
        }),
    );
    return { message: "clash", clashes, state: this.state() };
  }
}

async function mind(mood: Mood, signal: AbortSignal) {
  if (typeof mood === "object" && "hold" in mood) {
    await Promise.race([
      mood.hold,
      new Promise((_, no) => signal.addEventListener("abort", () => no(new Away("left")))),
    ]);
    return;
  }
  if (typeof mood === "object")
    throw new ApiError(422, { detail: "refused", errors: mood.refuse ? [mood.refuse as FieldError] : [] });
  if (mood === "away" || mood === "lost") throw new Away("gone");
  if (mood === "broken") throw new Broken("500");
  if (mood === "denied") throw new ApiError(403, { detail: "no", errors: [] });
  if (mood === "gone") throw new ApiError(404, { detail: "no such job", errors: [] });
}
