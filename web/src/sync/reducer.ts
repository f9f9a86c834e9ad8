import type { Change, ClashAnswer, ClashPoint, FieldError, JobState } from "../api/types";
import type { Act, Choice, Effect, Event, Failure, Item, Landed, Note, Parked, State } from "./state";

/**
 * How unsent edits travel: one pure step from a state and an event to the next state and what is to be done at the edge.
 *
 * An edit leaves the queue only when the server has answered it, when it is set aside where the person sees it, or when they let it go.
 */
export const MOST_CHANGES = 200;
export const MOST_TRIES = 4;
const REST_MS = 2000;
const LONGEST_REST_MS = 15_000;

type Step = [State, Effect[]];

export function step(state: State, event: Event): Step {
  const [next, effects] = take(state, event);
  return onward(next, effects);
}

/** Send the first edit that waits, if nothing is under way. */
function onward(state: State, effects: Effect[]): Step {
  const item = state.queue[0];
  if (state.flow.is !== "idle" || !state.sender || !item) return [state, effects];
  const { base, seen } = basis(item, state.landed);
  const send: Effect = { do: "send", item, base, seen, focus: state.focus };
  return [{ ...state, flow: { is: "sending", item: item.id, focus: state.focus } }, [...effects, send]];
}

/** What an edit was made on: the version on the screen, and the versions my own earlier edits became after that one. */
export function basis(item: Item, landed: readonly Landed[]): { base: number; seen: number[] } {
  const before = landed.filter((l) => l.seq < item.seq && l.version > item.base).map((l) => l.version);
  const seen = [...new Set(before)].sort((a, b) => a - b);
  let base = item.base;
  while (seen[0] === base + 1) base = seen.shift() as number;
  return { base, seen };
}

function take(state: State, event: Event): Step {
  switch (event.is) {
    case "shelved":
      return [shelved(state, event), []];
    case "shelf-failed":
      return [{ ...state, keeps: false }, []];
    case "elected":
      return [{ ...state, sender: true }, []];
    case "typed":
      return typed(state, event.changes, event.ids, event.now);
    case "undo":
      return undo(state, event.again, event.id, event.now);
    case "back":
      return queued({ ...state, withdrawn: [] }, [made(state, event.id, event.now, { is: "back", to: event.to })]);
    case "focus":
      return state.focus === event.focus && state.server
        ? [state, []]
        : look({ ...state, focus: event.focus, trial: null }, false);
    case "tick":
      return state.flow.is === "idle" && state.queue.length === 0 ? look(state, true) : [state, []];
    case "reload":
      return look({ ...state, trial: null }, false);
    case "wake":
      return wake(state);
    case "looked":
      return looked(state, event.n, event.focus, event.state);
    case "look-failed":
      return event.n === state.look && state.flow.is === "idle"
        ? stopped(state, event.failure, event.why, event.now)
        : [state, []];
    case "landed":
      return under(state, event.item, (item) => landed(state, item, event.focus, event.state));
    case "clashed":
      return under(state, event.item, (item) => clashed(state, item, event.answer, event.id));
    case "refused":
      return under(state, event.item, (item) => refused(state, item, event.error, event.message, event.ids));
    case "failed":
      return under(state, event.item, (item) => failed(state, item, event.failure, event.why, event.now));
    case "knew":
      return knew(state, event.person);
    case "who-failed":
      return state.flow.is === "asking" ? stopped(state, "away", "", event.now) : [state, []];
    case "resolve":
      return resolve(state, event.choices, event.id);
    case "retry-parked":
      return retried(state, event.id, event.fresh, event.now);
    case "let-go":
      return [
        { ...state, parked: state.parked.filter((p) => p.item.id !== event.id) },
        [{ do: "unpark", id: event.id }],
      ];
    case "understood":
      return [{ ...state, refused: null, said: null }, []];
    case "try":
      return tried(state, event.changes);
    case "tried":
      return triedOut(state, event.n, event.state);
    case "try-ended":
      return [{ ...state, trial: null }, []];
    case "elsewhere":
      return elsewhere(state, event.note);
  }
}

/** An answer counts only for the edit that is under way; of one let go in another tab meanwhile, only that it came. */
function under(state: State, id: string, then: (item: Item) => Step): Step {
  if (state.flow.is !== "sending" || state.flow.item !== id) return [state, []];
  const item = state.queue.find((i) => i.id === id);
  return item ? then(item) : look({ ...state, flow: { is: "idle" } }, false);
}

// Typing ----------------------------------------------------------------------------------------------------------------

const inOrder = (items: readonly Item[]) => [...items].sort((a, b) => a.seq - b.seq || (a.id < b.id ? -1 : 1));

function union<T>(one: readonly T[], two: readonly T[], key: (t: T) => string | number): T[] {
  return [...new Map([...one, ...two].map((t) => [key(t), t])).values()];
}

function shelved(
  state: State,
  kept: { queue: readonly Item[]; parked: readonly Parked[]; landed: readonly Landed[] },
): State {
  return {
    ...state,
    queue: inOrder(union(kept.queue, state.queue, (i) => i.id)),
    parked: union(kept.parked, state.parked, (p) => p.item.id),
    landed: union(kept.landed, state.landed, (l) => l.seq),
  };
}

const nextSeq = (state: State, now: number) =>
  Math.max(now, ...state.queue.map((i) => i.seq + 1), ...state.landed.map((l) => l.seq + 1));

const made = (state: State, id: string, now: number, act: Act): Item => ({
  id,
  seq: nextSeq(state, now),
  base: state.server?.version ?? 1,
  act,
  tries: 0,
});

function queued(state: State, items: readonly Item[]): Step {
  return [{ ...state, queue: [...state.queue, ...items] }, items.map((item) => ({ do: "keep", item }))];
}

/** The server takes so many changes at once: a longer edit goes in pieces. */
function typed(state: State, changes: readonly Change[], ids: readonly string[], now: number): Step {
  let next: State = { ...state, refused: null, said: null, trial: null, withdrawn: [] };
  const effects: Effect[] = [];
  for (let i = 0; i * MOST_CHANGES < changes.length; i++) {
    const piece = changes.slice(i * MOST_CHANGES, (i + 1) * MOST_CHANGES);
    const [after, kept] = queued(next, [made(next, ids[i] as string, now, { is: "changes", changes: piece })]);
    next = after;
    effects.push(...kept);
  }
  return [next, effects];
}

/** How many pieces an edit goes in. */
export const piecesOf = (changes: readonly Change[]) => Math.ceil(changes.length / MOST_CHANGES);

/**
 * Take back my last edit. The first that waits may have been sent with its answer lost, so only what stands behind it can be left unsent;
 * anything else is the server's to take back, after all that is typed before it.
 */
function undo(state: State, again: boolean, id: string, now: number): Step {
  const fresh: State = { ...state, refused: null, said: null, trial: null };
  if (again) {
    const item = state.withdrawn.at(-1) ?? null;
    const act: Act = item ? item.act : { is: "undo", again: true };
    return queued({ ...fresh, withdrawn: state.withdrawn.slice(0, -1) }, [made(state, id, now, act)]);
  }
  const last = state.queue.length > 1 ? state.queue.at(-1) : undefined;
  if (last?.act.is !== "changes")
    return queued({ ...fresh, withdrawn: [...state.withdrawn, null] }, [
      made(state, id, now, { is: "undo", again: false }),
    ]);
  return [
    { ...fresh, queue: state.queue.slice(0, -1), withdrawn: [...state.withdrawn, last] },
    [{ do: "forget", id: last.id, landed: null, last: false }],
  ];
}

/** The changes that are not answered yet, as they are shown: what is taken back is not. */
export function pending(queue: readonly Item[]): Change[] {
  const shown: (readonly Change[])[] = [];
  for (const { act } of queue) {
    if (act.is === "changes") shown.push(act.changes);
    else if (act.is === "undo" && !act.again) shown.pop();
  }
  return shown.flat();
}

// Looking ---------------------------------------------------------------------------------------------------------------

export const tagOf = (state: State): string | null =>
  state.server && (state.focus === null || state.server.detail?.id === state.focus)
    ? `W/"${state.server.version}.${state.server.cells}-${state.focus ?? ""}"`
    : null;

function look(state: State, ifChanged: boolean): Step {
  const n = state.look + 1;
  return [{ ...state, look: n }, [{ do: "look", n, focus: state.focus, tag: ifChanged ? tagOf(state) : null }]];
}

function looked(state: State, n: number, focus: string | null, answer: JobState): Step {
  if (n !== state.look || focus !== state.focus) return [state, []];
  // A look that was under way while an edit landed brings an older job: ask once more.
  if (state.server && answer.version < state.server.version) return look(state, false);
  return [{ ...state, server: answer, renewed: false, rests: 0 }, []];
}

/** The newer of what is there and what came; the circuit in full is kept where it is the one looked at. */
function newer(state: State, answer: JobState, focus: string | null): State {
  if (state.server && answer.version < state.server.version) return state;
  if (focus === state.focus) return { ...state, server: answer };
  const { detail = null, profile = null } = state.server ?? {};
  return { ...state, server: { ...answer, detail, profile } };
}

// Answers ---------------------------------------------------------------------------------------------------------------

function gone(state: State, item: Item, version: number | null): Step {
  const queue = state.queue.filter((i) => i.id !== item.id);
  const mark = version === null ? null : { seq: item.seq, version };
  const landed = queue.length === 0 ? [] : mark ? [...state.landed, mark] : state.landed;
  const decided = queue.length === 0 ? {} : state.decided;
  const next: State = { ...state, queue, landed, decided, flow: { is: "idle" } };
  return [next, [{ do: "forget", id: item.id, landed: mark, last: queue.length === 0 }]];
}

function landed(state: State, item: Item, focus: string | null, answer: JobState): Step {
  const [next, effects] = gone(
    { ...newer(state, answer, focus), renewed: false, rests: 0 },
    item,
    answer.landed ?? answer.version,
  );
  if (focus === state.focus) return [next, effects];
  const [looking, asked] = look(next, false);
  return [looking, [...effects, ...asked]];
}

/** What has been decided of a point before, on the same values, is not asked again. */
const keyOf = (p: ClashPoint) => `${p.kind} ${p.id} ${p.field} ${p.why}`;

function clashed(state: State, item: Item, answer: ClashAnswer, id: string): Step {
  const next = newer(state, answer.state, state.focus);
  if (item.act.is !== "changes") {
    const who = answer.clashes.find((c) => c.by)?.by;
    const what = answer.clashes.map((c) => [c.name, c.label === "exists" ? "" : c.label].filter(Boolean).join(": "));
    const [after, effects] = gone(next, item, null);
    return [
      { ...after, said: `Not taken back: ${who ?? "somebody"} has changed it since (${what.join("; ")}).` },
      effects,
    ];
  }
  const known = answer.clashes.map((p) => state.decided[keyOf(p)]);
  if (known.every((d, i) => d && d.theirs === answer.clashes[i]?.theirs_told))
    return settled(
      { ...next, flow: { is: "idle" } },
      item,
      answer,
      known.map((d) => d?.choice as Choice),
      id,
    );
  return [{ ...next, flow: { is: "clash", item: item.id, answer } }, []];
}

function resolve(state: State, choices: readonly Choice[], id: string): Step {
  if (state.flow.is !== "clash") return [state, []];
  const { item: which, answer } = state.flow;
  const item = state.queue.find((i) => i.id === which);
  if (!item) return [{ ...state, flow: { is: "idle" } }, []];
  const decided = { ...state.decided };
  answer.clashes.forEach((p, i) => {
    decided[keyOf(p)] = { choice: choices[i] ?? "theirs", theirs: p.theirs_told };
  });
  return settled({ ...state, decided, flow: { is: "idle" } }, item, answer, choices, id);
}

/** The edit as it is after the choices: made anew on the job as it stands. */
function settled(state: State, item: Item, answer: ClashAnswer, choices: readonly Choice[], id: string): Step {
  const changes = item.act.is === "changes" ? chosen(item.act.changes, answer.clashes, choices) : [];
  if (changes.length === 0) return gone(state, item, null);
  const fresh: Item = { ...item, id, base: answer.state.version, act: { is: "changes", changes }, tries: 0 };
  return replaced(state, item, [fresh]);
}

export function chosen(
  changes: readonly Change[],
  points: readonly ClashPoint[],
  choices: readonly Choice[],
): Change[] {
  return changes.flatMap((change, k) => {
    let fields = change.fields as Record<string, unknown>;
    for (const [i, point] of points.entries()) {
      if (point.change !== k || (choices[i] === "mine" && point.why !== "gone")) continue;
      if (point.why !== "value") return [];
      fields = without(fields, point.field);
    }
    return change.op === "set" && Object.keys(fields).length === 0
      ? []
      : [{ ...change, fields: fields as Change["fields"] }];
  });
}

function without(fields: Record<string, unknown>, name: string): Record<string, unknown> {
  const { [name]: _, ...rest } = fields;
  const [outer = "", inner] = name.split(".");
  if (!inner || !(outer in rest)) return rest;
  const { [inner]: __, ...inside } = rest[outer] as Record<string, unknown>;
  const { [outer]: ___, ...others } = rest;
  return Object.keys(inside).length > 0 ? { ...others, [outer]: inside } : others;
}

function replaced(state: State, old: Item, items: readonly Item[]): Step {
  const queue = state.queue.flatMap((i) => (i.id === old.id ? items : [i]));
  const kept: Effect[] = items.map((item) => ({ do: "keep", item }));
  return [{ ...state, queue }, [...kept, { do: "forget", id: old.id, landed: null, last: false }]];
}

/** The refused change is set aside, the others of its edit go on; a refusal that names none sets the whole edit aside. */
function refused(
  state: State,
  item: Item,
  error: FieldError | null,
  message: string,
  ids: readonly [string, string],
): Step {
  const idle: State = { ...state, flow: { is: "idle" } };
  if (item.act.is !== "changes") {
    const [after, effects] = gone(idle, item, null);
    const nothing =
      error?.field === "undo"
        ? "There is nothing of yours to take back."
        : error?.field === "redo"
          ? "There is nothing to do again."
          : message;
    return [{ ...after, said: nothing }, effects];
  }
  const { changes } = item.act;
  const at = error?.change ?? null;
  const bad = at === null ? undefined : changes[at];
  if (!bad || changes.length === 1) return parkedWhole({ ...idle, refused: error }, item, message, error);
  const rest: Item = { ...item, id: ids[0], act: { is: "changes", changes: changes.filter((_, i) => i !== at) } };
  const aside: Parked = { item: { ...item, id: ids[1], act: { is: "changes", changes: [bad] } }, why: message, error };
  const [next, effects] = replaced({ ...idle, refused: error, parked: [...state.parked, aside] }, item, [rest]);
  return [next, [{ do: "park", parked: aside }, ...effects]];
}

function parkedWhole(state: State, item: Item, why: string, error: FieldError | null): Step {
  const aside: Parked = { item, why, error };
  const [next, effects] = gone(state, item, null);
  return [{ ...next, parked: [...state.parked, aside] }, [{ do: "park", parked: aside }, ...effects]];
}

// Trouble ---------------------------------------------------------------------------------------------------------------

function failed(state: State, item: Item, failure: Failure, why: string, now: number): Step {
  if (failure !== "trouble") return stopped(state, failure, why, now);
  const tries = item.tries + 1;
  const idle: State = { ...state, flow: { is: "idle" } };
  if (tries >= MOST_TRIES) {
    if (item.act.is !== "changes") {
      const [after, effects] = gone(idle, item, null);
      return [{ ...after, said: "The server could not take it back." }, effects];
    }
    return parkedWhole(idle, { ...item, tries: 0 }, "The server failed over it each time.", null);
  }
  const tried: Item = { ...item, tries };
  const queue = state.queue.map((i) => (i.id === item.id ? tried : i));
  const after = Math.min(LONGEST_REST_MS, 1000 * 2 ** tries);
  return [
    { ...state, queue, flow: { is: "resting", why: "trouble", since: now, tries } },
    [
      { do: "keep", item: tried },
      { do: "wake", after },
    ],
  ];
}

function stopped(state: State, failure: Failure, why: string, now: number): Step {
  switch (failure) {
    case "denied":
      return [{ ...state, flow: { is: "asking" } }, [{ do: "who" }]];
    case "gone":
      return [{ ...state, flow: { is: "gone", why } }, []];
    default: {
      const tries = state.rests + 1;
      const after = Math.min(LONGEST_REST_MS, REST_MS * 2 ** (tries - 1));
      return [
        { ...state, rests: tries, flow: { is: "resting", why: failure, since: now, tries } },
        [{ do: "wake", after }],
      ];
    }
  }
}

function wake(state: State): Step {
  if (state.flow.is !== "resting") return [state, []];
  const idle: State = { ...state, flow: { is: "idle" } };
  return state.queue.length > 0 && state.sender ? [idle, []] : look(idle, false);
}

/** The answer to who this is: the same person goes on with a new token, nobody signs in again, somebody else sends nothing of mine. */
function knew(state: State, person: string | null): Step {
  if (person !== null && person !== state.person) return [{ ...state, flow: { is: "stranger" } }, [{ do: "stranger" }]];
  if (person === null) return [{ ...state, flow: { is: "signed-out" }, renewed: false }, []];
  if (state.flow.is === "signed-out") return look({ ...state, flow: { is: "idle" }, renewed: false }, false);
  if (state.flow.is !== "asking") return [state, []];
  if (state.renewed) return [{ ...state, flow: { is: "signed-out" }, renewed: false }, []];
  const idle: State = { ...state, flow: { is: "idle" }, renewed: true };
  return state.queue.length > 0 && state.sender ? [idle, []] : look(idle, false);
}

function retried(state: State, id: string, fresh: string, now: number): Step {
  const aside = state.parked.find((p) => p.item.id === id);
  if (!aside) return [state, []];
  const next: State = { ...state, parked: state.parked.filter((p) => p !== aside), refused: null };
  const [after, effects] = queued(next, [made(next, fresh, now, aside.item.act)]);
  return [after, [...effects, { do: "unpark", id }]];
}

// Trying out, and other tabs ----------------------------------------------------------------------------------------------

/** Show what changes would do without saving them. The newest wish is asked, one at a time. */
function tried(state: State, changes: readonly Change[]): Step {
  if (!state.server || state.queue.length > 0) return [state, []];
  if (state.trial?.under) return [{ ...state, trial: { ...state.trial, wish: changes } }, []];
  const n = state.trials + 1;
  const trial = { n, under: true, wish: null, state: state.trial?.state ?? null };
  return [
    { ...state, trial, trials: n },
    [{ do: "try", n, changes, version: state.server.version, focus: state.focus }],
  ];
}

function triedOut(state: State, n: number, answer: JobState | null): Step {
  if (!state.trial || state.trial.n !== n) return [state, []];
  const wish = state.trial.wish;
  const shown: State = {
    ...state,
    trial: { ...state.trial, under: false, wish: null, state: answer ?? state.trial.state },
  };
  return wish ? tried(shown, wish) : [shown, []];
}

function elsewhere(state: State, note: Note): Step {
  switch (note.is) {
    case "kept":
      return [
        {
          ...state,
          queue: inOrder(
            union(
              state.queue.filter((i) => i.id !== note.item.id),
              [note.item],
              (i) => i.id,
            ),
          ),
        },
        [],
      ];
    case "forgot": {
      const queue = state.queue.filter((i) => i.id !== note.id);
      const known = note.landed ? union(state.landed, [note.landed], (l) => l.seq) : state.landed;
      const next: State = { ...state, queue, landed: queue.length === 0 ? [] : known };
      return note.landed ? look(next, true) : [next, []];
    }
    case "parked":
      return [{ ...state, parked: union(state.parked, [note.parked], (p) => p.item.id) }, []];
    case "unparked":
      return [{ ...state, parked: state.parked.filter((p) => p.item.id !== note.id) }, []];
  }
}
