import type { Board, Installation } from "../api/types";

/** The boards in the order in which they feed each other, with how deep each lies. */
export function inOrder(job: Installation): { board: Board; depth: number; from: string | null }[] {
  const feeder = new Map(job.circuits.filter((c) => c.feeds).map((c) => [c.feeds as string, c.board]));
  const found: { board: Board; depth: number; from: string | null }[] = [];
  const walk = (from: string | null, depth: number) => {
    for (const board of job.boards) {
      if ((feeder.get(board.id) ?? null) !== from || found.some((f) => f.board.id === board.id)) continue;
      found.push({ board, depth, from });
      walk(board.id, depth + 1);
    }
  };
  walk(null, 0);
  return found;
}
