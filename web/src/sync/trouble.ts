// What becomes of unsent work that was not answered, and who this is: the same for edits and for entries of the site log.

export type Failure = "away" | "trouble" | "denied" | "gone";

/** Why nothing is under way. */
export type Halt =
  | { is: "idle" }
  | { is: "resting"; why: "away" | "trouble"; since: number; tries: number }
  | { is: "asking" }
  | { is: "signed-out" }
  | { is: "stranger" }
  | { is: "gone"; why: string };

/** What is known of the way to the server. */
export interface Reaching {
  person: string;
  flow: { is: string };
  /** Whether a new token was asked for since the last answer. */
  renewed: boolean;
  /** How often in a row no answer came. */
  rests: number;
}

/** What is done at the edge about it. */
export type Passing = { do: "wake"; after: number } | { do: "who" } | { do: "stranger" };

const REST_MS = 2000;
export const LONGEST_REST_MS = 15_000;

const halt = <S extends Reaching>(state: S, flow: Halt, rest: Partial<Reaching> = {}): S => ({
  ...state,
  ...rest,
  flow,
});

/** No answer came: ask again after a while, longer each time; where it is about who this is, ask that; a job that is gone stays so. */
export function stopped<S extends Reaching>(state: S, failure: Failure, why: string, now: number): [S, Passing[]] {
  switch (failure) {
    case "denied":
      return [halt(state, { is: "asking" }), [{ do: "who" }]];
    case "gone":
      return [halt(state, { is: "gone", why }), []];
    default: {
      const tries = state.rests + 1;
      const after = Math.min(LONGEST_REST_MS, REST_MS * 2 ** (tries - 1));
      const flow: Halt = { is: "resting", why: failure, since: now, tries };
      return [halt(state, flow, { rests: tries }), [{ do: "wake", after }]];
    }
  }
}

/** The answer to who this is: the same person goes on with a new token, nobody signs in again, somebody else sends nothing of mine. */
export function knew<S extends Reaching, F>(
  state: S,
  person: string | null,
  goOn: (idle: S) => [S, F[]],
  back = goOn,
): [S, (F | Passing)[]] {
  if (person !== null && person !== state.person) return [halt(state, { is: "stranger" }), [{ do: "stranger" }]];
  if (person === null) return [halt(state, { is: "signed-out" }, { renewed: false }), []];
  if (state.flow.is === "signed-out") return back(halt(state, { is: "idle" }, { renewed: false }));
  if (state.flow.is !== "asking") return [state, []];
  if (state.renewed) return [halt(state, { is: "signed-out" }, { renewed: false }), []];
  return goOn(halt(state, { is: "idle" }, { renewed: true }));
}
