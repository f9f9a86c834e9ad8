import { describe, expect, it } from "vitest";
import { BOARD, befores, endName, endsOf, isPlain, leaving, letGo, pathTo } from "../legs";

type Placed = { id: string; after: string | null };
const run = (...afters: (string | null)[]): Placed[] => afters.map((after, k) => ({ id: `s${k}`, after }));
const shape = (spans: Placed[]) => endsOf(spans).map((end) => pathTo(spans, end.id).map((s) => s.id));

/** The same draws each time. */
function chance(seed: number) {
  let state = seed;
  return (below: number) => {
    state = (state * 1103515245 + 12345) % 2147483648;
    return Math.floor((state / 2147483648) * below);
  };
}
function tree(seed: number): Placed[] {
  const next = chance(seed);
  const spans: Placed[] = [];
  for (let k = 0; k < 2 + next(8); k++) {
    const choices = [null, null, ...spans.map((s) => s.id), ...(spans.length > 0 ? [BOARD] : [])];
    spans.push({ id: `s${k}`, after: choices[next(choices.length)] ?? null });
  }
  return spans;
}

describe("runs that branch, as the page walks them", () => {
  it("goes on from the span before, unless it is said where it leaves from", () => {
    expect(shape(run(null, null, "s0", null))).toEqual([
      ["s0", "s1"],
      ["s0", "s2", "s3"],
    ]);
    expect(shape(run(null, BOARD, null))).toEqual([["s0"], ["s1", "s2"]]);
    expect(shape(run(null, null, "s1", "s0"))).toEqual([
      ["s0", "s1", "s2"],
      ["s0", "s3"],
    ]);
    expect(shape(run())).toEqual([]);
    for (const bad of ["s1", "s9", "s0"]) expect(befores(run(bad))).toBeNull();
    expect(endsOf(run("s9", null)).map((s) => s.id)).toEqual(["s1"]);
  });

  it("knows a straight run, with nothing at a box along it", () => {
    expect(isPlain(run(null, null), [{ span: null }])).toBe(true);
    expect(isPlain(run(null, null), [{ span: "s0" }])).toBe(false);
    expect(isPlain(run(null, "s0"), [])).toBe(false);
  });

  it("ends nowhere twice, reaches every span, and comes to no end that something goes on from", () => {
    for (let seed = 1; seed < 300; seed++) {
      const spans = tree(seed);
      const before = befores(spans);
      const ends = endsOf(spans).map((s) => s.id);
      expect(new Set(ends).size).toBe(ends.length);
      for (const end of ends) expect([...(before?.values() ?? [])]).not.toContain(end);
      expect(new Set(ends.flatMap((end) => pathTo(spans, end).map((s) => s.id))).size).toBe(spans.length);
      for (const end of ends) {
        const path = pathTo(spans, end);
        path.forEach((span, k) => {
          expect(before?.get(span.id)).toBe(path[k - 1]?.id ?? null);
        });
      }
    }
  });

  it("keeps what went on from a span that goes where that span left from", () => {
    for (let seed = 1; seed < 300; seed++) {
      const spans = tree(seed);
      const before = befores(spans) ?? new Map();
      for (const { id: gone } of spans) {
        const moved = letGo(spans, gone);
        const left = spans
          .filter((s) => s.id !== gone)
          .map((s) => ({ ...s, after: moved.has(s.id) ? (moved.get(s.id) ?? null) : s.after }));
        const now = befores(left);
        for (const s of left)
          expect(now?.get(s.id)).toBe(before.get(s.id) === gone ? before.get(gone) : before.get(s.id));
      }
    }
  });

  it("finds what leaves a path, by the span it leaves from", () => {
    const spans = run(null, null, "s0", null, "s1");
    const found = leaving(spans, ["s0", "s2", "s3"]);
    expect([...found].map(([from, firsts]) => [from, firsts.map((s) => s.id)])).toEqual([["s0", ["s1"]]]);
    expect(leaving(run(null, null), ["s0", "s1"]).size).toBe(0);
  });

  it("calls an end by what is there, else by the span that leads to it, else by its number", () => {
    const spans = [
      { id: "a", name: "joists", box: "box A" },
      { id: "b", name: "hall", box: "" },
      { id: "c", name: "", box: "" },
    ];
    expect(["a", "b", "c", "z"].map((id) => endName(spans, id))).toEqual([
      "box A",
      "hall",
      "the end of span 3",
      "a span that is gone",
    ]);
  });
});
