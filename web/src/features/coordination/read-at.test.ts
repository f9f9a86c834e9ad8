import { expect, test } from "vitest";
import type { Plot } from "../../api/types";
import { readAt } from "./read-at";

type Edge = [number, number][];
const device = (name: string, fast: Edge, slow: Edge) => ({ name, fast, slow });
const plot = (...devices: ReturnType<typeof device>[]) =>
  ({ scale: { i_lo: 1, i_hi: 100, t_lo: 0.01, t_hi: 100 }, devices }) as unknown as Plot;
const flat = (y: number, from = 0): Edge => [
  [from, y],
  [1, y],
];

test("the device whose slow edge lies below the fast edge of the other operates first", () => {
  const lower = device("Kiln", flat(0.2), flat(0.3));
  const upper = device("Feed", flat(0.5), flat(0.6));
  expect(readAt(plot(lower, upper), 0.5)[0]).toBe("Kiln operates first");
  expect(readAt(plot(upper, lower), 0.5)[0]).toBe("Kiln operates first");
});

test("where bands overlap or touch, or a fast edge is not known, neither is certain", () => {
  const lower = device("Kiln", flat(0.2), flat(0.5));
  for (const fast of [flat(0.4), flat(0.5), [] as Edge])
    expect(readAt(plot(lower, device("Feed", fast, flat(0.7))), 0.5)[0]).toBe(
      "which operates first is not certain here",
    );
});

test("one that does not operate there is not compared, and one alone is not called first", () => {
  const lower = device("Kiln", flat(0.2), flat(0.3));
  const late = device("Feed", flat(0.5, 0.8), flat(0.6, 0.8));
  expect(readAt(plot(lower, late), 0.5)).toEqual(["Kiln 0.063 s to 0.16 s", "Feed may not operate"]);
  expect(readAt(plot(lower, late), 0.9)[0]).toBe("Kiln operates first");
});
