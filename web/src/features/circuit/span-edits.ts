import type { Change, Circuit, Span } from "../../api/types";
import { change, setFields } from "../../sync/job-context";
import { befores, begins } from "../../sync/legs";

/** The shortest a span may be [m]. */
export const SHORTEST = 0.1;

/** The changes that add a span behind another: it goes on from there, and the span that went on from there goes on from the new one. */
export function goOn(
  circuit: string,
  spans: readonly Span[],
  from: Span | undefined,
): { changes: Change[]; id: string } {
  const id = crypto.randomUUID();
  const index = from ? spans.indexOf(from) + 1 : 0;
  return { changes: [change("add", "span", id, { parent: circuit, index })], id };
}

/** The changes that add a branch from the end of a span, or a second cable on the device. */
export function branchFrom(circuit: string, from: string): { changes: Change[]; id: string } {
  const id = crypto.randomUUID();
  return { changes: [change("add", "span", id, { parent: circuit, fields: { after: from } })], id };
}

/** Whether a span is long enough to be cut in two. */
export const canSplit = (span: Span | undefined) => (span?.length ?? 0) >= 2 * SHORTEST;

/**
 * Cut a span in two with the same surroundings; the second half is new and keeps the name. Together they are exactly as long as before:
 * the cut is made at a tenth of a metre and the rest is what is left of the length, digit by digit.
 */
export function splitChanges(circuit: Circuit, span: Span): { changes: Change[]; id: string } {
  const id = crypto.randomUUID();
  const length = span.length ?? 0;
  const middle = Math.round(length * 5) / 10;
  const first = Math.min(Math.max(SHORTEST, middle), minus(length, SHORTEST));
  const second = minus(length, first);
  const wrapped = Math.min(span.wrapped, first);
  const rest = Math.min(minus(span.wrapped, wrapped), second);
  // What stands at its end stands at the end of the second half, and what leaves from there leaves from it.
  const { id: _, after: __, ...kept } = span;
  // Another cable begins with the first half, and goes on.
  const same = { ...kept, ...NO_CABLE };
  const index = circuit.run.spans.findIndex((s) => s.id === span.id) + 1;
  return {
    id,
    changes: [
      setFields("span", span.id, { length: first, wrapped, ...(span.box ? { box: "" } : {}) }),
      change("add", "span", id, { parent: circuit.id, index, fields: { ...same, length: second, wrapped: rest } }),
      ...circuit.run.spans.filter((s) => s.after === span.id).map((s) => setFields("span", s.id, { after: id })),
      ...circuit.loads.filter((x) => x.span === span.id).map((x) => setFields("load", x.id, { span: id })),
    ],
  };
}

/** Take one length from another without the dust of binary fractions: to the tenth of a millimetre and finer digits as entered. */
export function minus(a: number, b: number): number {
  const digits = Math.max(places(a), places(b));
  return Number((a - b).toFixed(digits));
}
const places = (value: number) => String(value).split(".")[1]?.length ?? 0;

/** A span on the cable before it. */
export const NO_CABLE = {
  own_family: null,
  own_csa: null,
  own_cpc_csa: null,
  own_cpc: "usual",
  own_cores: null,
  own_overload: "device",
  own_short: null,
  joint: "",
  joint_reached: null,
} as const;

/** What of a span is about the cable that begins with it. */
const cableFields = (span: Span) =>
  Object.fromEntries(Object.keys(NO_CABLE).map((name) => [name, span[name as keyof typeof NO_CABLE]]));

/** The changes that remove a span: a cable that began with it begins with what went on from there. */
export function removeSpan(spans: readonly Span[], span: Span): Change[] {
  const before = befores(spans);
  const on = begins(span) ? spans.filter((s) => before?.get(s.id) === span.id && !begins(s)) : [];
  return [...on.map((s) => setFields("span", s.id, cableFields(span))), change("remove", "span", span.id)];
}

/** The span to select when the one at a place is removed. */
export function withoutSpan(spans: readonly Span[], at: number): string | null {
  return (spans[at + 1] ?? spans[at - 1])?.id ?? null;
}
