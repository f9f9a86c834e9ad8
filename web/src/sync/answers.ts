import type { Change, ClashAnswer, ClashPoint, FieldError, JobState } from "../api/types";
import { asideOfHistory, look, newer } from "./looking";
import type { Step } from "./queue";
import type { Choice, Effect, Item, Parked, State } from "./state";

// What becomes of an edit that was answered: landed, clashed, refused.

export function gone(state: State, item: Item, version: number | null): Step {
  const queue = state.queue.filter((i) => i.id !== item.id);
  const mark = version === null ? null : { seq: item.seq, version };
  const landed = queue.length === 0 ? [] : mark ? [...state.landed, mark] : state.landed;
  const decided = queue.length === 0 ? {} : state.decided;
  const next: State = { ...state, queue, landed, decided, flow: { is: "idle" } };
  return [next, [{ do: "forget", id: item.id, landed: mark, last: queue.length === 0 }]];
}

export function landed(state: State, item: Item, focus: string | null, answer: JobState): Step {
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

export function clashed(state: State, item: Item, answer: ClashAnswer, id: string): Step {
  const next = newer(state, answer.state, state.focus);
  if (item.act.is !== "changes") {
    const who = answer.clashes.find((c) => c.by)?.by;
    const what = answer.clashes.map((c) => [c.name, c.label === "exists" ? "" : c.label].filter(Boolean).join(": "));
    const [after, effects] = gone(next, item, null);
    return [{ ...after, said: `Not undone: ${who ?? "somebody"} has changed it since (${what.join("; ")}).` }, effects];
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

export function resolve(state: State, choices: readonly Choice[], id: string): Step {
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
  const fresh: Item = {
    ...item,
    id,
    base: answer.state.version,
    epoch: answer.state.epoch,
    act: { is: "changes", changes },
    tries: 0,
  };
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
export function refused(
  state: State,
  item: Item,
  error: FieldError | null,
  message: string,
  ids: readonly [string, string],
): Step {
  const idle: State = { ...state, flow: { is: "idle" } };
  if (error?.field === "epoch") {
    // The server has another history now: nothing that waits goes out by itself, and the job is looked at as it is.
    const [after, aside] = asideOfHistory(idle, null, "");
    const [looking, asked] = look(after, false);
    return [looking, [...aside, ...asked]];
  }
  if (item.act.is !== "changes") {
    const [after, effects] = gone(idle, item, null);
    const nothing =
      error?.field === "undo" ? "You have nothing to undo." : error?.field === "redo" ? "Nothing to redo." : message;
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

export function parkedWhole(state: State, item: Item, why: string, error: FieldError | null): Step {
  const aside: Parked = { item, why, error };
  const [next, effects] = gone(state, item, null);
  return [{ ...next, parked: [...state.parked, aside] }, [{ do: "park", parked: aside }, ...effects]];
}
