import type { Board, Change, Circuit, Installation, Span } from "../../api/types";
import { change, setFields } from "../../sync/job-context";
import { isPlain } from "../../sync/legs";
import { OWN } from "./cut-in";

/** The one circuit of the board that a feed ends at, where the board can go and the feed run on as that circuit; else why it cannot. */
export function joinable(job: Installation, feed: Circuit): { board: Board; behind: Circuit } | string {
  const board = job.boards.find((b) => b.id === feed.feeds);
  if (!board) return "It feeds no board.";
  const there = job.circuits.filter((c) => c.board === board.id);
  if (there.length !== 1) return `${board.name || "Its board"} has ${there.length} circuits: one is needed to run on.`;
  const behind = there[0] as Circuit;
  if (behind.shape === "ring" || feed.shape === "ring") return "A ring goes back to its board and cannot run on.";
  if (!isPlain(feed.run.spans, feed.loads) || !isPlain(behind.run.spans, behind.loads))
    return "A run that branches, or whose cable changes, is not joined in one step.";
  if (feed.phases !== behind.phases) return "The two differ in their phases.";
  const { cable: one } = feed.run;
  const { cable: other } = behind.run;
  if (one.family !== other.family || one.csa !== other.csa || one.cores !== other.cores)
    return "The two cables differ: they are not joined in one step.";
  if (feed.run.spans.some((s) => s.length === null)) return "Every span of the feed needs its length first.";
  return { board, behind };
}

/**
 * The changes by which a board goes out of a run: the feed runs on as the circuit that was behind it, under the feed's own device, and keeps what was tagged
 * and read. The reverse of a board that goes in along a run.
 */
export function join(feed: Circuit, board: Board, behind: Circuit): Change[] {
  const length = feed.run.spans.reduce((sum, s) => sum + (s.length ?? 0), 0);
  const at = (metres: number | null) => (metres === null ? null : Number((metres + length).toFixed(6)));
  const [last, next] = [feed.run.spans.at(-1), behind.run.spans[0]];
  // The two parts of a span that was cut are one again.
  const one = last && next && alike(last, next) ? last : null;
  return [
    setFields("circuit", feed.id, { ...asBehind(behind), feeds: null, name: behind.name }),
    ...(one && next ? [setFields("span", one.id, grown(one, next))] : []),
    ...behind.run.spans
      .slice(one ? 1 : 0)
      .map(({ id: _, ...span }) => change("add", "span", crypto.randomUUID(), { parent: feed.id, fields: span })),
    ...behind.loads.map(({ id: _, ...load }) =>
      change("add", "load", crypto.randomUUID(), { parent: feed.id, fields: { ...load, at: at(load.at) } }),
    ),
    ...(behind.feeds ? [setFields("circuit", behind.id, { feeds: null })] : []),
    change("remove", "board", board.id),
    ...(behind.feeds ? [setFields("circuit", feed.id, { feeds: behind.feeds })] : []),
  ];
}

/** All that is entered of the circuit behind; its device goes with the board, and the feed stays where it starts. */
const asBehind = (behind: Circuit) =>
  Object.fromEntries(
    Object.entries(behind).filter(([field]) => ![...OWN, "section", "phase", "existing"].includes(field as never)),
  );

const APART = ["id", "length", "wrapped", "box", "after"];

/** Whether two spans differ in nothing but how long they are. */
const alike = (one: Span, other: Span) =>
  one.length !== null &&
  other.length !== null &&
  Object.entries(one).every(([name, value]) => APART.includes(name) || value === other[name as keyof Span]);

const grown = (one: Span, other: Span) => ({
  length: plus(one.length ?? 0, other.length ?? 0),
  wrapped: plus(one.wrapped, other.wrapped),
  box: other.box,
});

const plus = (a: number, b: number) => Number((a + b).toFixed(6));

/** The changes that put a board between the meter and a board at the origin: the new one feeds it, by a circuit that is still to be designed. */
export function boardBefore(board: Board, name: string): { changes: Change[]; board: string; feed: string } {
  const [made, feed] = [crypto.randomUUID(), crypto.randomUUID()];
  const changes = [
    change("add", "board", made, { fields: { name } }),
    change("add", "circuit", feed, {
      parent: made,
      fields: { name: `Feed to ${board.name || "the board"}`, feeds: board.id },
    }),
  ];
  return { changes, board: made, feed };
}
