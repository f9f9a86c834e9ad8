import { describe, expect, it } from "vitest";
import { asFile, identityOf, readFile } from "./readings-file";

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
      ["id-1", "ir_le", 200, true, null],
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

  it("guesses no comma that may part thousands", () => {
    const values = ['"1,234"', '"12,34"', '"0,350"', '">1,234"'].map((v) => `A1,ipf,${v}`).join("\n");
    const { wrong } = readFile(`circuit,quantity,value\n${values}\n`, circuits);
    expect(wrong.map((w) => w.split(":")[0])).toEqual(["Line 2", "Line 5"]);
  });

  it("asks for its columns by name", () => {
    expect(readFile("cct,what\nA1,r1", circuits).wrong[0]).toContain("Not: cct, what");
    expect(readFile("", circuits).wrong).toHaveLength(1);
  });

  it("gives the same line the same identity, and another line another", async () => {
    const [a, b] = readFile("circuit,quantity,value\nA1,zs,0.5\nA1,zs,0.6\n", circuits).entries;
    const [again] = readFile("circuit,quantity,value\nA1,zs,0.5\n", circuits).entries;
    if (!a || !b || !again) throw new Error("three entries");
    expect(await identityOf("job", a)).toBe(await identityOf("job", again));
    expect(await identityOf("job", a)).not.toBe(await identityOf("job", b));
    expect(await identityOf("job", a)).not.toBe(await identityOf("other", a));
    expect(await identityOf("job", a)).toMatch(/^[0-9a-f]{8}-[0-9a-f]{4}-8[0-9a-f]{3}-a[0-9a-f]{3}-[0-9a-f]{12}$/);
  });

  it("writes what it reads: a figure, past the range, tripped, yes", () => {
    const reading = (more: object) => ({
      reading: {
        quantity: "zs",
        value: null,
        over: false,
        tripped: false,
        ok: null,
        point: "",
        at: null,
        temperature: 20,
        volts: null,
        instrument: "",
        method: "",
        ...more,
      },
      at: "2026-03-01T08:00:00Z",
    });
    const rows = [{ value: 0.5 }, { value: 200, over: true }, { over: true }, { tripped: true }, { ok: true }].map(
      reading,
    );
    const text = asFile({ number: "A1", tests: [{ rows }] } as unknown as Parameters<typeof asFile>[0]);
    expect(readFile(text, circuits).entries.map((e) => [e.data.value, e.data.over, e.data.tripped, e.data.ok])).toEqual(
      [
        [0.5, false, false, null],
        [200, true, false, null],
        [null, true, false, null],
        [null, false, true, null],
        [null, false, false, true],
      ],
    );
  });
});
