import type { Change } from "../api/types";
import type { Act, Effect, Item, Landed, Parked, State } from "./state";

// What waits to be sent: typed, taken back, set in order, cut in pieces.

export type Step = [State, Effect[]];
export const MOST_CHANGES = 200;

/** What an edit was made on: the version on the screen, and the versions my own earlier edits became after that one. */
export function basis(item: Item, landed: readonly Landed[]): { base: number; seen: number[] } {
  const before = landed.filter((l) => l.seq < item.seq && l.version > item.base).map((l) => l.version);
  const seen = [...new Set(before)].sort((a, b) => a - b);
  let base = item.base;
  while (seen[0] === base + 1) base = seen.shift() as number;
  return { base, seen };
}

export const inOrder = (items: readonly Item[]) => [...items].sort((a, b) => a.seq - b.seq || (a.id < b.id ? -1 : 1));

export function union<T>(one: readonly T[], two: readonly T[], key: (t: T) => string | number): T[] {
  return [...new Map([...one, ...two].map((t) => [key(t), t])).values()];
}

export function shelved(
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

export const made = (state: State, id: string, now: number, act: Act): Item => ({
  id,
  seq: nextSeq(state, now),
  base: state.server?.version ?? 1,
  epoch: state.server?.epoch ?? "",
  act,
  tries: 0,
});

export function queued(state: State, items: readonly Item[]): Step {
  return [{ ...state, queue: [...state.queue, ...items] }, items.map((item) => ({ do: "keep", item }))];
}

/** The server takes so many changes at once: a longer edit goes in pieces. */
export function typed(state: State, changes: readonly Change[], ids: readonly string[], now: number): Step {
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
export function undo(state: State, again: boolean, id: string, now: number): Step {
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
