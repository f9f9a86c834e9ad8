import { describe, expect, it } from "vitest";
import defaults from "../../api/defaults.gen.json";
import type { Circuit, Installation, Load, Span } from "../../api/types";
import { applied } from "../../sync/changes";
import { cannotCutIn, cutIn } from "./cut-in";
import { boardBefore, join, joinable } from "./join";

const span = (id: string, length: number | null, rest = {}) =>
  ({ ...defaults.span, id, length, ...rest }) as unknown as Span;
const load = (id: string, rest = {}) => ({ ...defaults.load, id, name: id, ...rest }) as unknown as Load;
const circuit = (spans: Span[], loads: Load[], rest = {}) =>
  ({
    ...defaults.circuit,
    id: "c",
    name: "Shed",
    board: "b",
    loads,
    device: { ...defaults.circuit.device, rating: 32 },
    run: { ...defaults.circuit.run, id: "c-run", spans },
    ...rest,
  }) as unknown as Circuit;
const house = (...circuits: Circuit[]) =>
  ({
    name: "House",
    boards: [
      { ...defaults.board, id: "b", name: "House" },
      { ...defaults.board, id: "far", name: "Far" },
    ],
    circuits,
    routes: [],
    stages: [],
    dismissals: [],
  }) as unknown as Installation;

const SPANS = [span("a", 7.5), span("b", 12.25, { wrapped: 3, name: "hedge" }), span("c", 4)];
const LOADS = [load("kiln"), load("lamp", { at: 20.05 })];

describe("a board that goes in along a run", () => {
  const cut = (spans: Span[], at: number, which = "b") => ({ spans, span: which, at, name: "Summer house" });

  it("is fed by the first part; what was behind starts from a way of it, and no metre is lost", () => {
    const one = circuit(SPANS, LOADS, {
      feeds: "far",
      phase: "L2",
      terminals: 90,
      overload: "omitted",
      leakage: 0.003,
      existing: true,
    });
    const { changes, board, behind } = cutIn(one, cut(SPANS, 2.2));
    const now = applied(house(one), changes);
    const [feed, rest] = ["c", behind].map((id) => now.circuits.find((c) => c.id === id) as Circuit);
    expect(now.boards.at(-1)).toMatchObject({ id: board, name: "Summer house" });
    expect(feed).toMatchObject({
      name: "Feed to Summer house",
      feeds: board,
      board: "b",
      loads: [],
      overload: "device",
      leakage: null,
      existing: true,
    });
    expect(rest).toMatchObject({
      name: "Shed",
      feeds: "far",
      board,
      phase: "L2",
      terminals: 90,
      overload: "omitted",
      leakage: 0.003,
      existing: true,
    });
    expect(rest?.device).toEqual(one.device);
    expect(rest?.run.cable).toEqual(one.run.cable);
    expect(feed?.run.spans.map((s) => s.length)).toEqual([7.5, 2.2]);
    expect(rest?.run.spans.map((s) => [s.length, s.name])).toEqual([
      [10.05, "hedge"],
      [4, ""],
    ]);
    expect([feed, rest].map((c) => c?.run.spans.reduce((sum, s) => sum + s.wrapped, 0))).toEqual([2.2, 0.8]);
    expect(rest?.loads.map((x) => [x.name, x.at])).toEqual([
      ["kiln", null],
      ["lamp", 10.35],
    ]);
    // One circuit feeds each board.
    expect(now.circuits.filter((c) => c.feeds === "far")).toHaveLength(1);
    expect(new Set(now.circuits.flatMap((c) => c.run.spans.map((s) => s.id))).size).toBe(4);
  });

  it("goes in at the end of a span without leaving a piece of none", () => {
    const one = circuit(SPANS, []);
    const { changes, behind } = cutIn(one, cut(SPANS, 12.25));
    const now = applied(house(one), changes);
    expect(now.circuits.find((c) => c.id === behind)?.run.spans.map((s) => s.length)).toEqual([4]);
  });

  it.each([
    ["a ring", circuit(SPANS, [], { shape: "ring" }), cut(SPANS, 2), "ring"],
    ["a run that branches", circuit([...SPANS, span("d", 2, { after: "a" })], []), cut(SPANS, 2), "branches"],
    ["a length that is not known", circuit([span("a", null)], []), cut([span("a", null)], 2, "a"), "length"],
    ["past the span", circuit(SPANS, []), cut(SPANS, 12.3), "0.1 to 12.25 m"],
    ["no figure", circuit(SPANS, []), cut(SPANS, Number.NaN), "0.1 to 12.25 m"],
    ["a sliver behind it", circuit(SPANS, []), cut(SPANS, 12.2), "At least 0.1 m"],
    ["nothing behind it", circuit(SPANS, []), cut(SPANS, 4, "c"), "Nothing is left"],
    ["a load before it", circuit(SPANS, [load("lamp", { at: 8 })]), cut(SPANS, 2), "lamp"],
  ])("does not go into %s", (_, one, where, told) => {
    expect(cannotCutIn(one as Circuit, where)).toContain(told);
  });

  it("may go in wherever nothing speaks against it", () => {
    expect(cannotCutIn(circuit(SPANS, LOADS), cut(SPANS, 2.2))).toBe("");
    expect(cannotCutIn(circuit(SPANS, LOADS), cut(SPANS, 12.25))).toBe("");
  });
});

const lying = (one: Circuit | undefined) => one?.run.spans.map((s) => [s.name, s.length, s.wrapped]);
const taken = (one: Circuit | undefined) => one?.loads.map((x) => [x.name, x.at]);

describe("a board that goes out of a run", () => {
  for (const [where, at] of [
    ["b", 2.2],
    ["b", 12.25],
    ["a", 7.5],
    ["c", 1],
  ] as const)
    it(`undoes a board that went in ${at} m along span ${where}`, () => {
      const one = circuit(SPANS, where === "c" ? [load("kiln")] : LOADS, { leakage: 0.003, overload: "omitted" });
      const cut = cutIn(one, { spans: SPANS, span: where, at, name: "Summer house" });
      const parted = applied(house(one), cut.changes);
      const feed = parted.circuits.find((c) => c.id === "c") as Circuit;
      const found = joinable(parted, feed);
      if (typeof found === "string") throw new Error(found);
      const now = applied(parted, join(feed, found.board, found.behind));
      expect(now.boards.map((b) => b.id)).toEqual(["b", "far"]);
      expect(now.circuits).toHaveLength(1);
      const back = now.circuits[0];
      expect(back).toMatchObject({ id: "c", name: "Shed", feeds: null, leakage: 0.003, overload: "omitted" });
      expect(lying(back)).toEqual(lying(one));
      expect(taken(back)).toEqual(taken(one));
    });

  it("keeps what was entered of the circuit behind after it was parted, and where the feed starts", () => {
    const one = circuit(SPANS, [], { section: 2 });
    const cut = cutIn(one, { spans: SPANS, span: "b", at: 2, name: "Summer house" });
    const parted = applied(house(one), [
      ...cut.changes,
      {
        op: "set",
        kind: "circuit",
        id: cut.behind,
        fields: { accessory: "isolator", accessory_in: 20, group_amps: 4, section: 1 },
      },
    ]);
    const feed = parted.circuits.find((c) => c.id === "c") as Circuit;
    const found = joinable(parted, feed);
    if (typeof found === "string") throw new Error(found);
    const [back] = applied(parted, join(feed, found.board, found.behind)).circuits;
    expect(back).toMatchObject({ accessory: "isolator", accessory_in: 20, group_amps: 4, section: 2 });
    expect(back?.device).toEqual(one.device);
  });

  it("hands on the board that was fed from behind", () => {
    const one = circuit(SPANS, [], { feeds: "far" });
    const cut = cutIn(one, { spans: SPANS, span: "b", at: 2, name: "Summer house" });
    const parted = applied(house(one), cut.changes);
    const feed = parted.circuits.find((c) => c.id === "c") as Circuit;
    const found = joinable(parted, feed);
    if (typeof found === "string") throw new Error(found);
    const now = applied(parted, join(feed, found.board, found.behind));
    expect(now.circuits.map((c) => [c.id, c.feeds])).toEqual([["c", "far"]]);
  });

  it("says why it cannot", () => {
    const feed = circuit(SPANS, [], { feeds: "far" });
    const behind = (rest: object = {}) => circuit([span("d", 3)], LOADS, { id: "d", board: "far", ...rest });
    const why = (...circuits: Circuit[]) => joinable(house(...circuits), circuits[0] as Circuit);
    expect(why(circuit(SPANS, []))).toBe("It feeds no board.");
    expect(why(feed)).toContain("0 circuits");
    expect(why(feed, behind(), behind({ id: "e" }))).toContain("2 circuits");
    expect(why(feed, behind({ shape: "ring" }))).toContain("ring");
    expect(why(feed, behind({ phases: 3 }))).toContain("phases");
    const thick = behind();
    expect(why(feed, { ...thick, run: { ...thick.run, cable: { ...thick.run.cable, csa: 16 } } })).toContain(
      "cables differ",
    );
    expect(why(circuit([span("a", null)], [], { feeds: "far" }), behind())).toContain("length");
    expect(typeof why(feed, behind())).toBe("object");
  });
});

describe("a board before a board", () => {
  it("feeds it by a circuit of its own", () => {
    const job = house(circuit(SPANS, LOADS));
    const old = job.boards[0];
    if (!old) throw new Error("no board");
    const { changes, board, feed } = boardBefore(old, "Head");
    const now = applied(job, changes);
    expect(now.boards.at(-1)).toMatchObject({ id: board, name: "Head" });
    expect(now.circuits.find((c) => c.id === feed)).toMatchObject({ board, feeds: "b", name: "Feed to House" });
    expect(now.circuits.find((c) => c.id === "c")).toMatchObject({ board: "b" });
  });
});
