import type { Load, Span } from "../api/types";

// Runs that branch, as the core has them (core/model/legs): each span goes on from the one before it in the list, unless it says where it leaves from.

export const BOARD = "board";
type Placed = Pick<Span, "id" | "after">;

/** By span the one it goes on from, null for the board; null in all where one names none that stands before it. */
export function befores(spans: readonly Placed[]): Map<string, string | null> | null {
  const found = new Map<string, string | null>();
  let last: string | null = null;
  for (const span of spans) {
    if (span.after === null) found.set(span.id, last);
    else if (span.after === BOARD) found.set(span.id, null);
    else if (found.has(span.after)) found.set(span.id, span.after);
    else return null;
    last = span.id;
  }
  return found;
}

/** What `after` of other spans becomes before one goes, so that what went on from it goes on from where it left. */
export function letGo(spans: readonly Placed[], gone: string): Map<string, string | null> {
  const before = befores(spans) ?? new Map<string, string | null>();
  const found = new Map<string, string | null>();
  let previous: string | null = null;
  for (const span of spans) {
    if (span.id === gone) continue;
    const own = before.get(span.id) ?? null;
    const wanted = own === gone ? (before.get(gone) ?? null) : own;
    const means = span.after === null ? previous : span.after === BOARD ? null : span.after;
    if (means !== wanted) found.set(span.id, wanted === previous ? null : (wanted ?? BOARD));
    previous = span.id;
  }
  return found;
}

type Begun = Partial<Pick<Span, "own_family" | "own_csa">>;

/** Whether another cable begins with a span. */
export const begins = (span: Begun) => (span.own_family ?? span.own_csa ?? null) !== null;

/** Whether the run of a circuit is straight, of one cable and with nothing at a box along it. */
export const isPlain = (spans: readonly (Placed & Begun)[], loads: readonly Pick<Load, "span">[]) =>
  !spans.some((s) => s.after || begins(s)) && !loads.some((x) => x.span);

/** By span the one that its cable begins with, null for the cable of the whole run. */
export function cablesOf<S extends Placed & Begun>(spans: readonly S[]): Map<string, S | null> {
  const before = befores(spans);
  const found = new Map<string, S | null>();
  for (const span of spans) found.set(span.id, begins(span) ? span : (found.get(before?.get(span.id) ?? "") ?? null));
  return found;
}

/** The spans of the way to the end of one, from the device on. */
export function pathTo<S extends Placed>(spans: readonly S[], id: string): S[] {
  const before = befores(spans);
  const byId = new Map(spans.map((s) => [s.id, s]));
  const found: S[] = [];
  for (let at = byId.get(id); at; at = byId.get(before?.get(at.id) ?? "")) found.unshift(at);
  return found;
}

/** The spans that nothing goes on from, the end of the main way first. */
export function endsOf<S extends Placed>(spans: readonly S[]): S[] {
  const before = befores(spans);
  if (!before) return spans.slice(-1);
  const found: S[] = [];
  const walk = (from: string | null) => {
    const on = spans.filter((s) => (before.get(s.id) ?? null) === from);
    for (const span of on) {
      const count = found.length;
      walk(span.id);
      if (found.length === count) found.push(span);
    }
  };
  walk(null);
  return found;
}

/** What leaves from the ends of the spans of a path and is not on it: by the span it leaves from, the first span of each branch. */
export function leaving<S extends Placed>(spans: readonly S[], path: readonly string[]): Map<string, S[]> {
  const before = befores(spans);
  const found = new Map<string, S[]>();
  for (const span of spans) {
    const from = before?.get(span.id);
    if (from && path.includes(from) && !path.includes(span.id)) found.set(from, [...(found.get(from) ?? []), span]);
  }
  return found;
}

type Named = Pick<Span, "id" | "name" | "box">;

/** What the end of a span is called: what is there, else the span that leads to it. */
export function endName(spans: readonly Named[], id: string): string {
  const at = spans.findIndex((s) => s.id === id);
  const span = spans[at];
  return span ? span.box || span.name || `the end of span ${at + 1}` : "a span that is gone";
}
