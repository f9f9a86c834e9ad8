import { gone, parkedWhole } from "./answers";
import { look } from "./looking";
import { made, queued, type Step } from "./queue";
import type { Failure, Item, State } from "./state";
import { LONGEST_REST_MS, stopped } from "./trouble";

// An edit that was not answered is tried again, a few times where the server fails over it.

export const MOST_TRIES = 4;

export function failed(state: State, item: Item, failure: Failure, why: string, now: number): Step {
  if (failure !== "trouble") return stopped(state, failure, why, now);
  const tries = item.tries + 1;
  const idle: State = { ...state, flow: { is: "idle" } };
  if (tries >= MOST_TRIES) {
    if (item.act.is !== "changes") {
      const [after, effects] = gone(idle, item, null);
      return [{ ...after, said: "The server could not undo it." }, effects];
    }
    return parkedWhole(idle, { ...item, tries: 0 }, "The server failed each time it tried.", null);
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

/** Go on once nothing stands in the way: with what waits, else with a look. */
export const goOn = (idle: State): Step => (idle.queue.length > 0 && idle.sender ? [idle, []] : look(idle, false));

export function wake(state: State): Step {
  return state.flow.is === "resting" ? goOn({ ...state, flow: { is: "idle" } }) : [state, []];
}

export function retried(state: State, id: string, fresh: string, now: number): Step {
  const aside = state.parked.find((p) => p.item.id === id);
  if (!aside) return [state, []];
  const next: State = { ...state, parked: state.parked.filter((p) => p !== aside), refused: null };
  const [after, effects] = queued(next, [made(next, fresh, now, aside.item.act)]);
  return [after, [...effects, { do: "unpark", id }]];
}
