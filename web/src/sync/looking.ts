import type { Change, JobState } from "../api/types";
import { clockOf, dayOf } from "../ui/time";
import type { Step } from "./queue";
import type { State } from "./state";

// What the server says without being sent an edit: its newest state, and what changes would do.

export const tagOf = (state: State): string | null =>
  state.server && (state.focus === null || state.server.detail?.id === state.focus)
    ? `W/"${state.server.tag}-${state.focus ?? ""}"`
    : null;

export function look(state: State, ifChanged: boolean): Step {
  const n = state.look + 1;
  return [{ ...state, look: n }, [{ do: "look", n, focus: state.focus, tag: ifChanged ? tagOf(state) : null }]];
}

export function looked(state: State, n: number, focus: string | null, answer: JobState): Step {
  if (n !== state.look || focus !== state.focus) return [state, []];
  if (state.server && answer.epoch !== state.server.epoch) return putBack(state, answer);
  // A look that was under way while an edit landed brings an older job: ask once more.
  if (state.server && answer.version < state.server.version) return look(state, false);
  const [after, aside] = asideOfHistory(state, answer.epoch, answer.put_back);
  return [{ ...after, server: answer, renewed: false, rests: 0 }, aside];
}

const whenTold = (at: string) => (at ? `${clockOf(at)}, ${dayOf(at)}` : "an earlier time");

/** Set aside what was typed on a history that is not the server's: on which state of now it would stand nobody can tell but who typed it. */
export function asideOfHistory(state: State, epoch: string | null, back: string): Step {
  const aside = state.queue.filter((i) => epoch === null || (i.epoch && i.epoch !== epoch));
  if (aside.length === 0) return [state, []];
  const why = `This server was put back to ${whenTold(back)}, after you typed it: look at the job as it is now, then try again or discard it.`;
  const parked = aside.map((item) => ({ item, why, error: null }));
  return [
    { ...state, queue: state.queue.filter((i) => !aside.includes(i)), parked: [...state.parked, ...parked] },
    parked.map((p) => ({ do: "park", parked: p })),
  ];
}

/** A backup was put in the place of what was stored: what is shown is the job as it was then, and nothing that came after counts any more. */
export function putBack(state: State, answer: JobState): Step {
  const [after, aside] = asideOfHistory(state, answer.epoch, answer.put_back);
  const waits = aside.length > 0 ? " Your unsent changes were not accepted; they are kept below." : "";
  const said = `This server was put back to ${whenTold(answer.put_back)}. Anything saved after that is gone.${waits}`;
  const next: State = {
    ...after,
    server: answer,
    landed: [],
    withdrawn: [],
    decided: {},
    trial: null,
    renewed: false,
    rests: 0,
    said,
    flow: after.flow.is === "clash" ? { is: "idle" } : after.flow,
  };
  return [next, [...aside, { do: "forget", id: "", landed: null, last: true }]];
}

/** The newer of what is there and what came; the circuit in full is kept where it is the one looked at. */
export function newer(state: State, answer: JobState, focus: string | null): State {
  if (state.server && answer.epoch === state.server.epoch && answer.version < state.server.version) return state;
  if (focus === state.focus) return { ...state, server: answer };
  const { detail = null, profile = null, paths = [], stage = "" } = state.server ?? {};
  return { ...state, server: { ...answer, detail, profile, paths, stage } };
}

/** Show what changes would do without saving them. The newest wish is asked, one at a time. */
export function tried(state: State, changes: readonly Change[]): Step {
  if (!state.server || state.queue.length > 0) return [state, []];
  if (state.trial?.under) return [{ ...state, trial: { ...state.trial, wish: changes } }, []];
  const n = state.trials + 1;
  const trial = { n, under: true, wish: null, state: state.trial?.state ?? null };
  return [
    { ...state, trial, trials: n },
    [{ do: "try", n, changes, version: state.server.version, focus: state.focus }],
  ];
}

export function triedOut(state: State, n: number, answer: JobState | null): Step {
  if (!state.trial || state.trial.n !== n) return [state, []];
  const wish = state.trial.wish;
  const shown: State = {
    ...state,
    trial: { ...state.trial, under: false, wish: null, state: answer ?? state.trial.state },
  };
  return wish ? tried(shown, wish) : [shown, []];
}
