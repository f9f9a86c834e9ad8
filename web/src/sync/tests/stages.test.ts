import { describe, expect, it } from "vitest";
import type { Change, Installation } from "../../api/types";
import { applied, apply, Refused } from "../changes";
import { atStage, isThere, whyNoPlan, withoutStage } from "../stages";

const part = (id: string, more: object = {}) => ({ id, name: id, from_stage: null, until_stage: null, ...more });
const circuit = (id: string, board: string, more: object = {}) =>
  part(id, { board, feeds: null, loads: [], run: { id: `${id}-run`, cable: {}, spans: [] }, device: {}, ...more });
const STAGES = ["now", "first", "later"].map((id) => ({ id, name: id, date: "" }));
/** A barn that is kept alive by its old feed until the first day. */
const barn = (more: object = {}) =>
  ({
    stages: STAGES,
    routes: [],
    dismissals: [],
    boards: [part("b"), part("far"), part("shed", { from_stage: "later" })],
    circuits: [
      circuit("old", "b", { feeds: "far", until_stage: "first" }),
      circuit("new", "b", { feeds: "far", from_stage: "first" }),
      circuit("to-shed", "far", { feeds: "shed" }),
      circuit("heat", "far", { loads: [part("h"), part("more", { from_stage: "later" })] }),
    ],
    ...more,
  }) as unknown as Installation;
const set = (id: string, fields: object, kind: Change["kind"] = "circuit") =>
  ({ op: "set", kind, id, fields }) as Change;

describe("stages", () => {
  it("has a part in place from the stage it is installed at until before the one it is removed at", () => {
    const there = (from: string | null, until: string | null) =>
      [0, 1, 2].map((at) => isThere(STAGES, { from_stage: from, until_stage: until }, at));
    expect(there(null, null)).toEqual([true, true, true]);
    expect(there("first", null)).toEqual([false, true, true]);
    expect(there(null, "first")).toEqual([true, false, false]);
    expect(there("first", "later")).toEqual([false, true, false]);
    const ids = [0, 1, 2].map((at) => atStage(barn(), at).circuits.map((c) => c.id));
    expect(ids).toEqual([
      ["old", "heat"],
      ["new", "heat"],
      ["new", "to-shed", "heat"],
    ]);
  });

  it("says why a plan cannot be", () => {
    expect(whyNoPlan(barn())).toBe("");
    const plan = (change: Change) => () => apply(barn(), change);
    expect(plan(set("new", { from_stage: null }))).toThrow("at now two feed it");
    expect(plan(set("old", { until_stage: "later" }))).toThrow("at first two feed it");
    expect(plan(set("new", { until_stage: "first" }))).toThrow("after the one it is installed at");
    expect(plan(set("h", { from_stage: "nowhen" }, "load"))).toThrow("a stage of this job");
    expect(plan(set("heat", { feeds: "b" }))).toThrow("no board may feed itself");
    expect(plan(set("shed", { from_stage: null }, "board"))).not.toThrow();
  });

  it("lets go of a stage that is removed, and refuses to where two feeds would meet", () => {
    const later = applied(barn(), [{ op: "remove", kind: "stage", id: "later" }]);
    expect(later.stages.map((s) => s.id)).toEqual(["now", "first"]);
    expect(later.boards[2]?.from_stage).toBeNull();
    expect(later.circuits[3]?.loads[1]?.from_stage).toBeNull();
    expect(() => apply(barn(), { op: "remove", kind: "stage", id: "first" })).toThrow(Refused);
    expect(withoutStage(barn(), "none")).toEqual(barn());
    const moved = applied(barn(), [
      { op: "add", kind: "stage", id: "x", index: 1, fields: { name: "X" } },
      { op: "move", kind: "stage", id: "x", index: 3 },
    ]);
    expect(moved.stages.map((s) => s.id)).toEqual(["now", "first", "later", "x"]);
  });
});
