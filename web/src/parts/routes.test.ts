import { expect, test } from "vitest";
import type { Route, Rules, Span } from "../api/types";
import { asItLies, leaveRoute, routeOf, setAsItLies, sharedFields, together } from "./routes";

const rules = {
  fields: [
    "span.name",
    "span.place",
    "span.ambient",
    "span.length",
    "span.group",
    "route.name",
    "route.place",
    "route.ambient",
  ]
    .concat(["route.length", "route.laid", "span.laid"])
    .map((field) => ({ field })),
  places: [
    { id: "tray", laid: ["bunched", "tray"] },
    { id: "plaster", laid: ["bunched"] },
  ],
} as unknown as Rules;
const shared = sharedFields(rules);
const span = {
  id: "s",
  route: "r",
  place: "masonry",
  ambient: 30,
  length: null,
  laid: "bunched",
  group: 1,
} as unknown as Span;
const route = { id: "r", place: "tray", ambient: null, length: 12, laid: "tray" } as unknown as Route;

test("what a span shares with a route is what both have", () => {
  expect(shared).toEqual(["place", "ambient"]);
});

test("a span lies as its route says, and keeps what the route leaves open", () => {
  expect(asItLies(span, [route], shared)).toMatchObject({ place: "tray", ambient: 30, length: 12 });
  expect(asItLies({ ...span, length: 4 }, [route], shared).length).toBe(4);
  expect(asItLies({ ...span, route: null }, [route], shared)).toMatchObject({ place: "masonry", length: null });
});

test("an edit goes to the route where the route says it, else to the span", () => {
  const changes = setAsItLies(span, route, shared, { place: "plaster", ambient: 35 }, rules);
  expect(changes.map((c) => [c.kind, c.id, c.fields])).toEqual([
    ["route", "r", { place: "plaster", laid: "bunched" }],
    ["span", "s", { ambient: 35 }],
  ]);
  expect(setAsItLies(span, undefined, shared, { place: "tray" }, rules)).toHaveLength(1);
});

test("leaving takes the values along, and a stretch becomes a route with all it has", () => {
  const lying = asItLies(span, [route], shared);
  expect(leaveRoute(lying, route, shared).fields).toEqual({
    route: null,
    laid: "tray",
    length: 12,
    place: "tray",
    ambient: 30,
  });
  expect(routeOf(lying, "Riser", shared)).toEqual({
    name: "Riser",
    length: 12,
    laid: "bunched",
    place: "tray",
    ambient: 30,
  });
});

test("names are said as one says them", () => {
  expect([together([]), together(["a"]), together(["a", "b"]), together(["a", "b", "c"])]).toEqual([
    "",
    "a",
    "a and b",
    "a, b and c",
  ]);
});
