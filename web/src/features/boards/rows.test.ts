import { describe, expect, it } from "vitest";
import type { Board, Circuit, Rules } from "../../api/types";
import { EMPTY_CABLE, EMPTY_DEVICE } from "../../sync/changes";
import { cellShown, cellText, duplicated, pasted, rowsOf } from "./rows";

const rules = {
  devices: [
    { id: "rcbo", title: "RCBO", trips: "breaker", ratings: [] },
    { id: "BS88-2", title: "BS 88-2 gG fuse", trips: "fuse", ratings: [] },
  ],
  families: [
    { id: "flat", title: "flat twin & earth", cpc: "in_cable", sizes: [], pairs: [{ line: 10, cpc: 4 }], methods: [] },
  ],
  places: [
    { id: "masonry", title: "clipped to masonry", method: "C", look: "masonry", ground: false, laid: [], said: [] },
  ],
} as unknown as Rules;

const circuit = (id: string, rest: Partial<Circuit> = {}): Circuit =>
  ({
    id,
    name: id,
    board: "b",
    feeds: null,
    phases: 1,
    phase: null,
    device: { ...EMPTY_DEVICE, kind: "rcbo", curve: "C", rating: 40, idn: 0.03 },
    loads: [
      { id: `${id}-l`, name: "kiln", basis: "W", amount: 9200, quantity: 1, pf: 1, future: true, room: "studio" },
    ],
    run: {
      id: `${id}-run`,
      cable: { ...EMPTY_CABLE, family: "flat", csa: 10 },
      spans: [
        { id: `${id}-s`, name: "", place: "masonry", length: 3.25 },
        { id: `${id}-t`, name: "", place: null, length: 2 },
      ],
    },
    ...rest,
  }) as unknown as Circuit;
const board = { id: "b", name: "House board", ways: 8 } as Board;

describe("the ways of a board", () => {
  it("give a three-phase circuit three, and leave the rest blank", () => {
    const rows = rowsOf(board, [circuit("a"), circuit("c", { phases: 3 }), circuit("d")]);
    expect(rows.map((r) => [r.way, r.circuit?.id ?? "blank"])).toEqual([
      [1, "a"],
      [2, "c"],
      [5, "d"],
      [6, "blank"],
      [7, "blank"],
      [8, "blank"],
    ]);
  });

  it("keep a blank row to type into where the board is full or its ways are not known", () => {
    expect(rowsOf({ ...board, ways: 1 }, [circuit("a")]).map((r) => r.circuit?.id)).toEqual(["a", undefined]);
    expect(rowsOf({ ...board, ways: null }, []).length).toBe(1);
  });
});

describe("a cell", () => {
  const one = circuit("a");
  const spans = one.run.spans;
  it("says what the reader takes back", () => {
    expect(cellText("device", one, rules, spans)).toBe("C40 rcbo 30mA");
    expect(cellText("load", one, rules, spans)).toBe("9.2 kW kiln later");
    expect(cellText("cable", one, rules, spans)).toBe("10 flat twin & earth");
    expect(cellText("length", one, rules, spans)).toBe("3.25 + 2");
    expect(cellText("place", one, rules, spans)).toBe("clipped to masonry + not chosen");
  });

  it("shows a cpc that is not the usual one, and a fuse by its name", () => {
    const odd = circuit("a", {
      device: { ...one.device, kind: "BS88-2", rating: 32, idn: null },
      run: { ...one.run, cable: { ...one.run.cable, cpc_csa: 6 } },
    });
    expect(cellText("cable", odd, rules, spans)).toBe("10/6 flat twin & earth");
    expect(cellText("device", odd, rules, spans)).toBe("BS88-2 32");
  });

  it("adds the lengths up to look at, and says where one is missing", () => {
    expect(cellShown("length", one, rules, spans)).toBe("5.25 m");
    expect(cellShown("length", one, rules, [{ ...spans[0], length: null } as never])).toBe("some not known");
    expect(cellShown("place", one, rules, spans)).toBe("clipped to masonry, and 1 more");
  });
});

it("a circuit once more has parts of its own, on the same board after it, and feeds nothing", () => {
  const { id, changes } = duplicated(circuit("a", { feeds: "far" }), 2);
  expect(changes.map((c) => [c.op, c.kind, c.parent])).toEqual([
    ["add", "circuit", "b"],
    ["add", "load", id],
    ["add", "span", id],
    ["add", "span", id],
  ]);
  expect(changes[0]?.index).toBe(3);
  expect(changes[0]?.fields).toMatchObject({ name: "a (again)", device: { rating: 40 }, cable: { csa: 10 } });
  expect(changes[0]?.fields).not.toHaveProperty("feeds");
  expect(changes[1]?.fields).toMatchObject({ amount: 9200, room: "studio" });
  expect(new Set(changes.map((c) => c.id)).size).toBe(4);
});

describe("what is pasted", () => {
  it("is cut at tabs, at semicolons where there are none, and into lines else", () => {
    expect(pasted("Shed\tb16\r\nPond\tb6\n\n")).toEqual([
      ["Shed", "b16"],
      ["Pond", "b6"],
    ]);
    expect(pasted('Shed;b16\n"Pond";b6')).toEqual([
      ["Shed", "b16"],
      ["Pond", "b6"],
    ]);
    expect(pasted("shower 9.2kW, b40")).toEqual([["shower 9.2kW, b40"]]);
  });
});
