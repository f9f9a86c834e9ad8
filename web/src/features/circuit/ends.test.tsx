// @vitest-environment jsdom
import { cleanup, render, screen, within } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { afterEach, describe, expect, it, vi } from "vitest";
import type { Circuit, CircuitResult, Profile } from "../../api/types";
import { Ends } from "./ends";
import { pointsOf } from "./taken-off";

const end = (span: string, rest = {}) => ({
  span,
  name: span,
  at: 6,
  last: true,
  loads: [],
  verdict: "meets",
  drop: 0.5,
  volts: 229,
  zs: 0.7512,
  r1r2: 0.393,
  fault_min: 290.9,
  ...rest,
});
const result = (...ends: ReturnType<typeof end>[]) => ({ ends }) as unknown as CircuitResult;

describe("the ends and boxes of a run that branches", () => {
  afterEach(cleanup);

  it("tells each with its figures, in the order one walks, and marks the ends by their verdict", () => {
    const found = result(end("box A", { last: false, verdict: null }), end("hall"), end("bath", { verdict: "short" }));
    render(<Ends result={found} shown="bath" selected="hall" onShow={vi.fn()} />);
    const rows = screen.getAllByRole("row").slice(1);
    expect(rows.map((row) => within(row).getByRole("button").textContent)).toEqual(["box A", "hall", "bath"]);
    expect(rows[1]?.textContent).toContain("0.751");
    expect(screen.getByRole("button", { name: "bath: an end of the run, fails" }).getAttribute("aria-current")).toBe(
      "true",
    );
    expect(screen.getByRole("button", { name: "box A: box" })).toBeTruthy();
    expect(rows[2]?.textContent).toContain("drawn");
  });

  it("says of what is not known that it is not, and never a figure", () => {
    const found = result(
      end("hall", { at: null, drop: null, zs: null, r1r2: null, fault_min: null, verdict: "not_known" }),
    );
    render(<Ends result={found} shown="" selected={null} onShow={vi.fn()} />);
    const cells = screen.getAllByRole("cell").map((cell) => cell.textContent);
    expect(cells).toEqual(["–", "–", "–", "–", "–"]);
  });

  it("draws the path to the one that is pressed", async () => {
    const onShow = vi.fn();
    render(<Ends result={result(end("hall"), end("bath"))} shown="hall" selected={null} onShow={onShow} />);
    await userEvent.click(screen.getByRole("button", { name: /^bath/ }));
    expect(onShow).toHaveBeenCalledExactlyOnceWith("bath");
  });
});

describe("where loads stand on the strip", () => {
  const load = (id: string, rest = {}) => ({ id, name: id, at: null, spur: "no", span: null, ...rest });
  const circuit = (spans: object[], loads: object[]) => ({ loads, run: { spans } }) as unknown as Circuit;
  const drawn = {
    own_from: 2,
    stretches: [
      { span: "feed", end: 2 },
      { span: "a", end: 8 },
      { span: "b", end: 12 },
    ],
  };
  const profile = drawn as unknown as Profile;

  it("needs no peg for one at the far end, and one for each that stands apart", () => {
    const spans = [{ id: "a", after: null }];
    expect(pointsOf(circuit(spans, [load("lamp")]), profile)).toEqual([]);
    expect(pointsOf(circuit(spans, [load("lamp"), load("fan", { at: 3 })]), profile).map((p) => p.at)).toEqual([
      null,
      3,
    ]);
  });

  it("shows those at the ends of spans of the path that is drawn, where they cannot be dragged", () => {
    const spans = [
      { id: "a", after: null },
      { id: "b", after: null },
      { id: "c", after: "a" },
    ];
    const loads = [load("at a", { span: "a" }), load("at c", { span: "c" }), load("anywhere")];
    expect(pointsOf(circuit(spans, loads), profile)).toEqual([
      { id: "at a", name: "at a", at: 6, spur: false, fixed: true },
    ]);
    expect(pointsOf(circuit(spans, loads), null)).toEqual([]);
  });
});
