import type { Change, JobState } from "../api/types";
import type { Step } from "./queue";
import type { State } from "./state";

// What the server says without being sent an edit: its newest state, and what changes would do.

export const tagOf = (state: State): string | null =>
  state.server && (state.focus === null || state.server.detail?.id === state.focus)
    ? `W/"${state.server.version}.${state.server.cells}-${state.focus ?? ""}"`
    : null;

export function look(state: State, ifChanged: boolean): Step {
  const n = state.look + 1;
  return [{ ...state, look: n }, [{ do: "look", n, focus: state.focus, tag: ifChanged ? tagOf(state) : null }]];
}

export function looked(state: State, n: number, focus: string | null, answer: JobState): Step {
  if (n !== state.look || focus !== state.focus) return [state, []];
  // A look that was under way while an edit landed brings an older job: ask once more.
  if (state.server && answer.version < state.server.version) return look(state, false);
  return [{ ...state, server: answer, renewed: false, rests: 0 }, []];
}

/** The newer of what is there and what came; the circuit in full is kept where it is the one looked at. */
export function newer(state: State, answer: JobState, focus: string | null): State {
  if (state.server && answer.version < state.server.version) return state;
  if (focus === state.focus) return { ...state, server: answer };
  const { detail = null, profile = null } = state.server ?? {};
  return { ...state, server: { ...answer, detail, profile } };
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
