import type { Board, Circuit, Installation, Load, Stage } from "../api/types";

type Staged = Pick<Board | Circuit | Load, "from_stage" | "until_stage">;
/** What a part without stages names: it is there from the first on, and stays. */
export const THROUGHOUT: Staged = { from_stage: null, until_stage: null };

const placeOf = (stages: readonly Stage[], id: string | null, other: number) => {
  const at = id === null ? -1 : stages.findIndex((s) => s.id === id);
  return at < 0 ? other : at;
};

/** Whether a part by itself is there at a stage, by its place: from the one it comes at until before the one it goes at. */
export const isThere = (stages: readonly Stage[], part: Staged, at: number) =>
  placeOf(stages, part.from_stage, 0) <= at && at < placeOf(stages, part.until_stage, stages.length);

/** The boards and circuits that are there at a stage: a circuit with the board it starts from, a sub-main with the one it feeds as well. */
export function atStage(inst: Installation, at: number): { boards: Set<string>; circuits: Circuit[] } {
  const boards = new Set(inst.boards.filter((b) => isThere(inst.stages, b, at)).map((b) => b.id));
  const circuits = inst.circuits.filter(
    (c) => isThere(inst.stages, c, at) && boards.has(c.board) && (c.feeds === null || boards.has(c.feeds)),
  );
  return { boards, circuits };
}

/** Why a plan cannot be, empty where it can: a part that goes before it comes, a board that two sub-mains feed at one stage or that feeds itself. */
export function whyNoPlan(inst: Installation): string {
  const known = new Set(inst.stages.map((s) => s.id));
  const parts: Staged[] = [...inst.boards, ...inst.circuits, ...inst.circuits.flatMap((c) => c.loads)];
  for (const part of parts) {
    for (const named of [part.from_stage, part.until_stage])
      if (named !== null && !known.has(named)) return "a stage of this job";
    const { from_stage: from, until_stage: until } = part;
    if (from !== null && until !== null && placeOf(inst.stages, until, 0) <= placeOf(inst.stages, from, 0))
      return "a stage after the one it is installed at";
  }
  for (const [at, stage] of inst.stages.entries()) {
    const feeders = new Map<string, Circuit>();
    for (const circuit of atStage(inst, at).circuits) {
      if (circuit.feeds === null) continue;
      if (feeders.has(circuit.feeds)) return `one sub-main to a board at each stage; at ${stage.name} two feed it`;
      feeders.set(circuit.feeds, circuit);
    }
    for (const board of feeders.keys()) {
      const seen = new Set([board]);
      for (let above = feeders.get(board)?.board; above; above = feeders.get(above)?.board) {
        if (seen.has(above)) return `another board: no board may feed itself, as it would at ${stage.name}`;
        seen.add(above);
      }
    }
  }
  return "";
}

/** A job in which nothing comes or goes at a stage any more: what did is there from the first on, or stays. */
export function withoutStage(inst: Installation, stage: string): Installation {
  const freed = <P extends Staged>(part: P): P =>
    part.from_stage !== stage && part.until_stage !== stage
      ? part
      : {
          ...part,
          from_stage: part.from_stage === stage ? null : part.from_stage,
          until_stage: part.until_stage === stage ? null : part.until_stage,
        };
  return {
    ...inst,
    boards: inst.boards.map(freed),
    circuits: inst.circuits.map((c) => freed({ ...c, loads: c.loads.map(freed) })),
  };
}
