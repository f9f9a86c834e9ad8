import { expect, test } from "vitest";
import defaults from "../../api/defaults.gen.json";
import type { Circuit, Route, Span } from "../../api/types";
import { intoRoute, named, outside, spanFor } from "./into-route";

const span = (id: string, more: Partial<Span> = {}): Span => ({ ...(defaults.span as unknown as Span), id, ...more });
const circuit = (id: string, spans: Span[], name = id): Circuit => {
  const made = structuredClone(defaults.circuit) as unknown as Circuit;
  return { ...made, id, name, loads: [], run: { ...made.run, id: `${id}-run`, spans } };
};
const route = { ...(defaults.route as unknown as Route), id: "k", name: "riser", place: "floor_void" };

test("a span that lies as the route does comes into it, another circuit gets one at its start", () => {
  const there = circuit("a", [span("a1", { place: "masonry" }), span("a2", { place: "floor_void" })]);
  const without = circuit("b", [span("b1", { place: "masonry" })]);
  let made = 0;
  expect(
    intoRoute([there, without], route, () => {
      made += 1;
      return `new${made}`;
    }),
  ).toEqual([
    { op: "set", kind: "span", id: "a2", fields: { route: "k" } },
    { op: "add", kind: "span", id: "new1", parent: "b", index: 0, fields: { route: "k" } },
  ]);
});

test("a span of another route, and one nobody placed, are left where they are", () => {
  expect(spanFor(circuit("a", [span("a1", { place: "floor_void", route: "other" })]), route)).toBeNull();
  expect(spanFor(circuit("a", [span("a1", { place: null })]), { ...route, place: null })).toBeNull();
});

test("what is in it already, or branches, is not offered", () => {
  const inside = circuit("a", [span("a1", { route: "k" })]);
  const branched = circuit("b", [span("b1"), span("b2"), span("b3", { after: "b1" })]);
  const free = circuit("c", [span("c1")]);
  expect(outside([inside, branched, free], route).map((c) => c.id)).toEqual(["c"]);
});

test("pasted names find circuits whatever their case and spaces, each once, and the rest is told", () => {
  const circuits = [circuit("a", [], "Kitchen ring"), circuit("b", [], "Shower"), circuit("c", [], "Shower")];
  const { found, unknown } = named("kitchen  RING\nshower; Hob,\t\nkitchen ring", circuits);
  expect(found.map((c) => c.id)).toEqual(["a", "b", "c"]);
  expect(unknown).toEqual(["Hob"]);
  const ground = circuit("d", [], "Ring, ground floor");
  expect(named("ring, ground floor\nShower, Hob", [...circuits, ground])).toEqual({
    found: [ground, circuits[1], circuits[2]],
    unknown: ["Hob"],
  });
});
