import { clashed, landed, refused, resolve } from "./answers";
import { look, looked, tried, triedOut } from "./looking";
import { elsewhere } from "./other-tabs";
import { basis, made, queued, type Step, shelved, typed, undo, union } from "./queue";
import type { Effect, Event, Item, State } from "./state";
import { failed, goOn, retried, wake } from "./tries";
import { knew, stopped } from "./trouble";

/**
 * How unsent edits travel: one pure step from a state and an event to the next state and what is to be done at the edge.
 *
 * An edit leaves the queue only when the server has answered it, when it is set aside where the person sees it, or when they let it go.
 */
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

function take(state: State, event: Event): Step {
  switch (event.is) {
    case "shelved":
      return [shelved(state, event), []];
    case "shelf-failed":
      return [{ ...state, keeps: false }, []];
    case "elected":
      return [{ ...state, sender: true }, []];
    case "unseated":
      return [{ ...state, sender: false }, []];
    case "typed":
      return typed(state, event.changes, event.ids, event.now);
    case "undo":
      return undo(state, event.again, event.id, event.now);
    case "back":
      return queued({ ...state, withdrawn: [] }, [made(state, event.id, event.now, { is: "back", to: event.to })]);
    case "focus":
      // The same was asked for already, whether or not it is there yet.
      return state.focus === event.focus && state.look > 0
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
      return under(state, event.item, (item) =>
        landed(event.turned ? { ...state, said: event.turned } : state, item, event.focus, event.state),
      );
    case "clashed":
      return under(state, event.item, (item) => clashed(state, item, event.answer, event.id));
    case "refused":
      return under(state, event.item, (item) => refused(state, item, event.error, event.message, event.ids));
    case "failed":
      return under(state, event.item, (item) => failed(state, item, event.failure, event.why, event.now));
    case "knew":
      return knew(state, event.person, goOn, (idle) => look(idle, false));
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
    case "aside":
      return [
        { ...state, parked: union(state.parked, [event.parked], (p) => p.item.id) },
        [{ do: "park", parked: event.parked }],
      ];
    case "understood":
      return [{ ...state, refused: null, said: null }, []];
    case "try":
      return tried(state, event.changes);
    case "tried":
      return triedOut(state, event.n, event.state);
    case "try-ended":
      return [{ ...state, trial: null }, []];
    case "worked-out":
      return [{ ...state, here: event.here }, []];
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
