import type { Change, Circuit, Span } from "../../api/types";
import { change, setFields } from "../../sync/job-context";
import { isPlain } from "../../sync/legs";
import { minus, SHORTEST } from "./span-edits";

/** What stays with the first part of a cut circuit, or is made anew for each. */
export const OWN = ["id", "board", "name", "feeds", "loads", "run", "device", "common_cpc"] as const;

/** What belongs to the loads that are behind now, and not to what feeds their board. */
const FEED = { diversified: null, accessory: null, leakage: null, overload: "device" } as const;

export interface Cut {
  /** The spans of the circuit as they lie. */
  spans: readonly Span[];
  span: string;
  /** How far along that span [m]. */
  at: number;
  /** What the new board is called. */
  name: string;
}

/** Why a board cannot go in there, or the empty text. */
export function cannotCutIn(circuit: Circuit, { spans, span, at }: Cut): string {
  const index = spans.findIndex((s) => s.id === span);
  const length = spans[index]?.length ?? null;
  if (circuit.shape === "ring") return "A ring goes back to its board: make it two radials first.";
  if (!isPlain(circuit.run.spans, circuit.loads))
    return "A run that branches, or whose cable changes, is not cut in one step.";
  if (spans.some((s) => s.length === null)) return "Every span needs its length first.";
  if (length === null || !(at >= SHORTEST) || at > length) return `${SHORTEST} to ${length ?? 0} m along this span.`;
  if (at > minus(length, SHORTEST) && at < length) return `At least ${SHORTEST} m are left behind it, or none.`;
  if (at === length && index === spans.length - 1)
    return "Nothing is left behind it: feed a board from the end instead.";
  const before = circuit.loads.filter((x) => x.at !== null && x.at < cutAt(spans, index, at));
  if (before.length > 0)
    return `${before.map((x) => x.name || "a load").join(", ")}: nearer the board than the cut. Move it first.`;
  return "";
}

/**
 * The changes by which a board goes in along a run: the first part feeds it, and all that was behind starts from a way of it, under the same device and
 * cable. What is measured and tagged stays with the first part.
 */
export function cutIn(circuit: Circuit, cut: Cut): { changes: Change[]; board: string; behind: string } {
  const { spans, at, name } = cut;
  const index = spans.findIndex((s) => s.id === cut.span);
  const here = spans[index] as Span;
  const [board, behind] = [crypto.randomUUID(), crypto.randomUUID()];
  const where = cutAt(spans, index, at);
  const wrapped = Math.min(here.wrapped, at);
  const left = minus(here.length ?? 0, at);
  const rest = left > 0 ? [{ ...here, length: left, wrapped: Math.min(minus(here.wrapped, wrapped), left) }] : [];
  const own = Object.fromEntries(Object.entries(circuit).filter(([field]) => !OWN.includes(field as never)));
  const changes = [
    ...(circuit.feeds ? [setFields("circuit", circuit.id, { feeds: null })] : []),
    setFields("span", here.id, { length: at, wrapped, box: "" }),
    ...spans
      .slice(index + 1)
      .reverse()
      .map((s) => change("remove", "span", s.id)),
    ...[...circuit.loads].reverse().map((x) => change("remove", "load", x.id)),
    change("add", "board", board, { fields: { name } }),
    change("add", "circuit", behind, {
      parent: board,
      fields: { ...own, name: circuit.name, feeds: circuit.feeds, device: circuit.device, cable: circuit.run.cable },
    }),
    ...circuit.loads.map(({ id: _, ...load }) =>
      change("add", "load", crypto.randomUUID(), {
        parent: behind,
        fields: { ...load, at: load.at === null ? null : minus(load.at, where) },
      }),
    ),
    ...[...rest, ...spans.slice(index + 1)].map(({ id: _, ...span }) =>
      change("add", "span", crypto.randomUUID(), { parent: behind, fields: span }),
    ),
    setFields("circuit", circuit.id, { feeds: board, name: `Feed to ${name}`, ...FEED }),
  ];
  return { changes, board, behind };
}

const cutAt = (spans: readonly Span[], index: number, at: number) =>
  Number((spans.slice(0, index).reduce((sum, s) => sum + (s.length ?? 0), 0) + at).toFixed(6));
