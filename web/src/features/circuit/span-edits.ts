import type { Change, Circuit, Span } from "../../api/types";
import { change, setFields } from "../../state/job-context";

/** Cut a span in two halves with the same surroundings; the second half is new and keeps the name. */
export function splitChanges(circuit: Circuit, span: Span): { changes: Change[]; id: string } {
  const id = crypto.randomUUID();
  const length = span.length ?? 0;
  const first = Math.max(0.1, Math.round(length * 5) / 10);
  const second = Math.max(0.1, Math.round((length - first) * 10) / 10);
  const wrapped = Math.min(span.wrapped, first);
  const rest = Math.min(Math.max(0, span.wrapped - wrapped), second);
  const { id: _, ...same } = span;
  const index = circuit.run.spans.findIndex((s) => s.id === span.id) + 1;
  return {
    id,
    changes: [
      setFields("span", span.id, { length: first, wrapped }),
      change("add", "span", id, { parent: circuit.id, index, fields: { ...same, length: second, wrapped: rest } }),
    ],
  };
}

/** The span to select when the one at a place is removed. */
export function withoutSpan(spans: readonly Span[], at: number): string | null {
  return (spans[at + 1] ?? spans[at - 1])?.id ?? null;
}
