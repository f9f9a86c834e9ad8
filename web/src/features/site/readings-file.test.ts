import { describe, expect, it } from "vitest";
import { readFile } from "./readings-file";

const circuits = [
  { circuit: "id-1", number: "A1", name: "Ring, ground floor" },
  { circuit: "id-2", number: "A2", name: "Shower" },
];

describe("readings from a file", () => {
  it("takes circuits by number or name, figures, what is past the range, and yes or no", () => {
    const { entries, wrong } = readFile(
      'circuit,quantity,value,point,volts,time\nA1,r1,0.45,,,2026-03-01T08:00:00Z\n"ring, ground floor",ir_le,>200,the board,500,\nshower,polarity,yes,,,\n',
      circuits,
    );
    expect(wrong).toEqual([]);
    expect(entries.map((e) => [e.subject, e.data.quantity, e.data.value, e.data.over, e.data.ok])).toEqual([
      ["id-1", "r1", 0.45, false, null],
      ["id-1", "ir_le", null, true, null],
      ["id-2", "polarity", null, false, true],
    ]);
    expect(entries[0]?.at).toBe("2026-03-01T08:00:00.000Z");
    expect(entries[1]?.data.volts).toBe(500);
  });

  it("tells every wrong line and then takes none", () => {
    const { entries, wrong } = readFile(
      "circuit;quantity;value;time\nA9;r1;0.4;\nA1;r1;lots;\nA1;r1;;\nA1;r1;0,4;yesterday-ish\nA1;r1;0,4;\n",
      circuits,
    );
    expect(entries).toEqual([]);
    expect(wrong.map((w) => w.split(":")[0])).toEqual(["Line 2", "Line 3", "Line 4", "Line 5"]);
  });

  it("asks for its columns by name", () => {
    expect(readFile("cct,what\nA1,r1", circuits).wrong[0]).toContain("Not: cct, what");
    expect(readFile("", circuits).wrong).toHaveLength(1);
  });
});
