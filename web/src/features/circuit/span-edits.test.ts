import { describe, expect, it } from "vitest";
import type { Circuit, Span } from "../../api/types";
import { cableOf, otherCable } from "./own-cable";
import { canSplit, NO_CABLE, removeSpan, splitChanges } from "./span-edits";

const span = (length: number, wrapped = 0) => ({ id: "s", name: "loft", length, wrapped }) as Span;
const circuit = (s: Span) => ({ id: "c", loads: [], run: { spans: [{ id: "first" }, s] } }) as unknown as Circuit;
const halves = (s: Span) =>
  splitChanges(circuit(s), s).changes.map((c) => c.fields as { length: number; wrapped: number });

describe("cutting a span in two", () => {
  it.each([7.5, 0.2, 0.25, 3.2575, 0.3, 1000, 9.99, 12.34])("keeps %d m to the last digit", (length) => {
    const [one, two] = halves(span(length));
    const sum = Number(((one?.length ?? 0) + (two?.length ?? 0)).toFixed(6));
    expect(sum).toBe(length);
    expect(Math.min(one?.length ?? 0, two?.length ?? 0)).toBeGreaterThanOrEqual(0.1);
  });
  it("shares the wrapped length out, none of it lost and none longer than its half", () => {
    const [one, two] = halves(span(5, 4));
    expect([one?.wrapped, two?.wrapped]).toEqual([2.5, 1.5]);
  });
  it("puts the new half behind the old one", () => {
    expect(splitChanges(circuit(span(5)), span(5)).changes[1]).toMatchObject({ op: "add", parent: "c", index: 2 });
  });
  it("leaves what is at its end, and what leaves from there, at the end of the second half", () => {
    const cut = { ...span(6), box: "box A" };
    const tree = {
      id: "c",
      loads: [
        { id: "lamp", span: "s" },
        { id: "other", span: "first" },
      ],
      run: { spans: [{ id: "first" }, cut, { id: "branch", after: "s" }] },
    } as unknown as Circuit;
    const { changes, id } = splitChanges(tree, cut);
    const of = (part: string) => changes.find((c) => c.id === part)?.fields;
    expect(of("s")).toMatchObject({ box: "" });
    expect(of(id)).toMatchObject({ box: "box A" });
    expect(of("branch")).toEqual({ after: id });
    expect(of("lamp")).toEqual({ span: id });
    expect(of("other")).toBeUndefined();
  });
  it("does not cut what is too short", () => {
    expect([canSplit(span(0.19)), canSplit(span(0.2)), canSplit(undefined)]).toEqual([false, true, false]);
  });
});

describe("another cable along a run", () => {
  const armoured = { ...NO_CABLE, own_family: "armoured", own_csa: 4, own_cores: 3, joint: "resin" };
  const of = (id: string, rest = {}) =>
    ({ ...NO_CABLE, id, after: null, length: 4, wrapped: 0, ...rest }) as unknown as Span;
  const run = (...spans: Span[]) =>
    ({ id: "c", loads: [], run: { cable: { family: "flat", csa: 1.5 }, spans } }) as unknown as Circuit;

  it("goes on over a cut, with one joint", () => {
    const begun = of("b", armoured);
    const { changes, id } = splitChanges(run(of("a"), begun), begun);
    expect(changes.find((c) => c.id === id)?.fields).toMatchObject({ ...NO_CABLE });
    expect(changes.find((c) => c.id === "b")?.fields).not.toHaveProperty("own_csa");
  });

  it("begins with what went on from the span that is removed, unless that has its own", () => {
    const spans = [
      of("a"),
      of("b", armoured),
      of("c"),
      of("branch", { after: "b" }),
      of("other", { after: "b", own_csa: 2.5 }),
    ];
    const changes = removeSpan(spans, spans[1] as Span);
    expect(changes.map((c) => [c.op, c.id])).toEqual([
      ["set", "c"],
      ["set", "branch"],
      ["remove", "b"],
    ]);
    expect(changes[0]?.fields).toMatchObject(armoured);
    expect(removeSpan(spans, spans[0] as Span).map((c) => c.op)).toEqual(["remove"]);
  });

  it("starts as the one before it, also behind a third", () => {
    const spans = [of("a"), of("b", { ...armoured, own_family: null }), of("c"), of("d", { own_csa: 6 })];
    const circuit = run(...spans);
    expect(otherCable(circuit, spans[0] as Span)).toEqual({ own_family: "flat", own_csa: 1.5 });
    expect(otherCable(circuit, spans[2] as Span)).toEqual({ own_family: "flat", own_csa: 4 });
    expect(cableOf(circuit, spans[3] as Span)).toEqual({ family: "flat", csa: 6 });
  });
});
