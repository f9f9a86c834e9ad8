import { gone, parkedWhole } from "./answers";
import { look } from "./looking";
import { made, queued, type Step } from "./queue";
import type { Failure, Item, State } from "./state";

// What becomes of an edit that was not answered, and who this is.

export const MOST_TRIES = 4;
const REST_MS = 2000;
const LONGEST_REST_MS = 15_000;

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

export function stopped(state: State, failure: Failure, why: string, now: number): Step {
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

export function wake(state: State): Step {
  if (state.flow.is !== "resting") return [state, []];
  const idle: State = { ...state, flow: { is: "idle" } };
  return state.queue.length > 0 && state.sender ? [idle, []] : look(idle, false);
}

/** The answer to who this is: the same person goes on with a new token, nobody signs in again, somebody else sends nothing of mine. */
export function knew(state: State, person: string | null): Step {
  if (person !== null && person !== state.person) return [{ ...state, flow: { is: "stranger" } }, [{ do: "stranger" }]];
  if (person === null) return [{ ...state, flow: { is: "signed-out" }, renewed: false }, []];
  if (state.flow.is === "signed-out") return look({ ...state, flow: { is: "idle" }, renewed: false }, false);
  if (state.flow.is !== "asking") return [state, []];
  if (state.renewed) return [{ ...state, flow: { is: "signed-out" }, renewed: false }, []];
  const idle: State = { ...state, flow: { is: "idle" }, renewed: true };
  return state.queue.length > 0 && state.sender ? [idle, []] : look(idle, false);
}

export function retried(state: State, id: string, fresh: string, now: number): Step {
  const aside = state.parked.find((p) => p.item.id === id);
  if (!aside) return [state, []];
  const next: State = { ...state, parked: state.parked.filter((p) => p !== aside), refused: null };
  const [after, effects] = queued(next, [made(next, fresh, now, aside.item.act)]);
  return [after, [...effects, { do: "unpark", id }]];
}
