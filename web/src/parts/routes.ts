import type { Change, Route, Rules, Span } from "../api/types";
import { setFields } from "../sync/job-context";

/** What a span takes from its route: the fields that both have, but for what names a part and how a group lies. */
export function sharedFields(rules: Rules): string[] {
  const of = (kind: string) =>
    rules.fields.filter((f) => f.field.startsWith(`${kind}.`)).map((f) => f.field.slice(kind.length + 1));
  const spans = new Set(of("span"));
  return of("route").filter((name) => spans.has(name) && !["name", "laid", "length"].includes(name));
}

type Fields = Record<string, unknown>;

/** A span as it lies: with the surroundings of its route laid over its own. The server does the same before it works anything out. */
export function asItLies(span: Span, routes: readonly Route[], shared: readonly string[]): Span {
  const route = routes.find((r) => r.id === span.route) as (Route & Fields) | undefined;
  if (!route) return span;
  const taken: Fields = {};
  for (const name of shared) if (route[name] !== null && route[name] !== undefined) taken[name] = route[name];
  if (span.length === null && route.length !== null) taken.length = route.length;
  return { ...span, ...taken } as Span;
}

/** The changes that set fields of a span as it lies: what its route says is changed there, for all in it; the rest on the span. */
export function setAsItLies(
  span: Span,
  route: Route | undefined,
  shared: readonly string[],
  fields: Fields | undefined,
  rules: Rules,
): Change[] {
  const there: Fields = {};
  const own: Fields = {};
  for (const [name, value] of Object.entries(fields ?? {})) {
    const held = route && shared.includes(name) && (route as Route & Fields)[name] !== null;
    (held ? there : own)[name] = value;
  }
  const place = rules.places.find((p) => p.id === there.place);
  // How the group lies follows where it lies, as far as that exists there.
  if (route && place && !place.laid.includes(route.laid)) there.laid = place.laid[0];
  const changes: Change[] = [];
  if (route && Object.keys(there).length > 0) changes.push(setFields("route", route.id, there));
  if (Object.keys(own).length > 0) changes.push(setFields("span", span.id, own));
  return changes;
}

/** The change that takes a span out of its route, with all it had there. */
export function leaveRoute(lying: Span, route: Route, shared: readonly string[]): Change {
  const own: Fields = { route: null, laid: route.laid, length: lying.length };
  for (const name of shared) own[name] = (lying as Span & Fields)[name];
  return setFields("span", lying.id, own);
}

/** The fields of a new route that is made of a stretch as it lies. */
export function routeOf(lying: Span, name: string, shared: readonly string[]): Fields {
  const fields: Fields = { name, length: lying.length, laid: lying.laid };
  for (const one of shared) fields[one] = (lying as Span & Fields)[one];
  return fields;
}

/** The names of a list as one says them. */
export const together = (names: readonly string[]) =>
  names.length < 2 ? names.join("") : `${names.slice(0, -1).join(", ")} and ${names.at(-1)}`;
