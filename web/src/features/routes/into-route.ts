import type { Change, Circuit, Route, Span } from "../../api/types";
import { change, setFields } from "../../sync/job-context";
import { isPlain } from "../../sync/legs";

/** Where a circuit comes into a route: the span of it that lies there already, or none, and a new one is added at its start. */
export function spanFor(circuit: Circuit, route: Route): Span | null {
  return circuit.run.spans.find((s) => s.route === null && s.place !== null && s.place === route.place) ?? null;
}

/** The circuits that can be put into a route by one act: not in it yet, and with a run that does not branch. */
export const outside = (circuits: readonly Circuit[], route: Route) =>
  circuits.filter((c) => isPlain(c.run.spans, c.loads) && !c.run.spans.some((s) => s.route === route.id));

/** The changes that put circuits into a route, as one edit. make: gives a new identity. */
export function intoRoute(circuits: readonly Circuit[], route: Route, make: () => string): Change[] {
  return circuits.map((c) => {
    const there = spanFor(c, route);
    return there
      ? setFields("span", there.id, { route: route.id })
      : change("add", "span", make(), { parent: c.id, index: 0, fields: { route: route.id } });
  });
}

/** The circuits that a pasted list names, one a line or with commas, and what names none of them. A name may have commas of its own. */
export function named(text: string, circuits: readonly Circuit[]): { found: Circuit[]; unknown: string[] } {
  const plain = (name: string) => name.trim().toLowerCase().replace(/\s+/g, " ");
  const fitting = (said: string) => circuits.filter((c) => plain(c.name) === plain(said));
  const found = new Set<Circuit>();
  const unknown: string[] = [];
  for (const line of text.split(/[\n;\t]+/)) {
    const parts = fitting(line).length > 0 ? [line] : line.split(",");
    for (const said of parts.filter((part) => part.trim() !== "")) {
      const fits = fitting(said);
      if (fits.length === 0) unknown.push(said.trim());
      for (const one of fits) found.add(one);
    }
  }
  return { found: [...found], unknown };
}
