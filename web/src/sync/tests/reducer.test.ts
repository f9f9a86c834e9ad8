import { describe, expect, it } from "vitest";
import type { Change, ClashPoint, JobState } from "../../api/types";
import { chosen } from "../answers";
import { tagOf } from "../looking";
import { basis, MOST_CHANGES, pending, piecesOf } from "../queue";
import { step } from "../reducer";
import { begin, type Effect, type Event, type Item, type State } from "../state";

const set = (fields: Record<string, unknown>, id = "c"): Change => ({
  op: "set",
  kind: "circuit",
  id,
  fields: fields as Change["fields"],
});
const item = (
  seq: number,
  base = 1,
  act: Item["act"] = { is: "changes", changes: [set({ name: `${seq}` })] },
): Item => ({
  id: `i${seq}`,
  seq,
  base,
  act,
  tries: 0,
});
const point = (rest: Partial<ClashPoint>): ClashPoint => ({
  change: 0,
  why: "value",
  kind: "circuit",
  id: "c",
  name: "",
  field: "name",
  label: "name",
  base_told: "",
  mine_told: "",
  theirs_told: "",
  by: "",
  at: "",
  ...rest,
});
const at = (version: number, focus: string | null = null) =>
  ({
    version,
    tag: `e.${version}`,
    epoch: "e",
    put_back: "",
    cells: 0,
    landed: version,
    detail: focus ? { id: focus } : null,
  }) as unknown as JobState;
const run = (state: State, ...events: Event[]): [State, Effect[]] => {
  let now = state;
  let effects: Effect[] = [];
  for (const event of events) [now, effects] = step(now, event);
  return [now, effects];
};
const sender = (rest: Partial<State> = {}): State => ({ ...begin("j", "me"), sender: true, server: at(1), ...rest });

describe("what an edit was made on", () => {
  it("is the version on the screen while nothing of mine landed after it", () => {
    expect(basis(item(5, 3), [])).toEqual({ base: 3, seen: [] });
  });
  it("moves on over my own versions that follow it without a gap", () => {
    const landed = [
      { seq: 1, version: 4 },
      { seq: 2, version: 5 },
    ];
    expect(basis(item(5, 3), landed)).toEqual({ base: 5, seen: [] });
  });
  it("names my own versions behind a gap that somebody else made", () => {
    const landed = [
      { seq: 1, version: 5 },
      { seq: 2, version: 7 },
      { seq: 9, version: 8 },
    ];
    expect(basis(item(5, 3), landed)).toEqual({ base: 3, seen: [5, 7] });
  });
  it("does not count what landed before it was on the screen", () => {
    expect(basis(item(5, 6), [{ seq: 1, version: 5 }])).toEqual({ base: 6, seen: [] });
  });
});

describe("what is shown of what waits", () => {
  it("is all of it in order, without what was taken back", () => {
    const undo = item(3, 1, { is: "undo", again: false });
    expect(pending([item(1), item(2), undo]).map((c) => c.fields)).toEqual([{ name: "1" }]);
    expect(pending([item(1), item(3, 1, { is: "undo", again: true })])).toHaveLength(1);
    expect(pending([item(3, 1, { is: "back", to: 1 })])).toEqual([]);
  });
});

describe("an edit after the choices", () => {
  const both = [
    set({ name: "mine", device: { rating: 16, curve: "C" } }),
    { op: "remove", kind: "span", id: "s", fields: {} } as Change,
  ];
  it("keeps all that is mine", () => {
    expect(chosen(both, [point({}), point({ change: 1, why: "changed" })], ["mine", "mine"])).toEqual(both);
  });
  it("loses a field that is theirs, nested ones too, and keeps the others", () => {
    expect(chosen(both, [point({ field: "device.rating" })], ["theirs"])[0]?.fields).toEqual({
      name: "mine",
      device: { curve: "C" },
    });
    expect(chosen(both, [point({})], ["theirs"])[0]?.fields).toEqual({ device: { rating: 16, curve: "C" } });
  });
  it("loses a change whose part is gone, whatever is chosen", () => {
    expect(chosen(both, [point({ why: "gone" })], ["mine"])).toEqual([both[1]]);
  });
  it("loses a change of which nothing is left", () => {
    expect(chosen([set({ name: "mine" })], [point({})], ["theirs"])).toEqual([]);
  });
});

describe("the order of things", () => {
  it("sends one edit at a time, the first typed first", () => {
    const [state, effects] = run(sender({ queue: [item(1), item(2)] }), { is: "elected" });
    expect(effects.filter((e) => e.do === "send").map((e) => e.do === "send" && e.item.id)).toEqual(["i1"]);
    expect(state.flow).toMatchObject({ is: "sending", item: "i1" });
    expect(
      run(state, { is: "typed", changes: [set({})], ids: ["x"], now: 9 })[1].filter((e) => e.do === "send"),
    ).toEqual([]);
  });
  it("sends nothing from a tab that is not the one that sends", () => {
    expect(run({ ...sender(), sender: false }, { is: "typed", changes: [set({})], ids: ["x"], now: 9 })[1]).toEqual([
      { do: "keep", item: expect.objectContaining({ id: "x" }) },
    ]);
  });
  it("gives each piece of a long edit its own place and identity", () => {
    const changes = Array.from({ length: 2 * MOST_CHANGES + 1 }, () => set({}));
    expect(piecesOf(changes)).toBe(3);
    const [state] = run({ ...sender(), sender: false }, { is: "typed", changes, ids: ["a", "b", "c"], now: 5 });
    expect(state.queue.map((i) => [i.id, i.seq, i.act.is === "changes" && i.act.changes.length])).toEqual([
      ["a", 5, 200],
      ["b", 6, 200],
      ["c", 7, 1],
    ]);
  });
  it("takes an answer only for the edit that is under way", () => {
    const [sending] = run(sender({ queue: [item(1)] }), { is: "elected" });
    const [same] = run(sending, { is: "landed", item: "other", focus: null, state: at(2) });
    expect(same).toBe(sending);
    const [done] = run(sending, { is: "landed", item: "i1", focus: null, state: at(2) });
    expect(done).toMatchObject({ queue: [], flow: { is: "idle" }, server: { version: 2 } });
    expect(run(done, { is: "landed", item: "i1", focus: null, state: at(9) })[0].server?.version).toBe(2);
  });
  it("never shows an older job over a newer one", () => {
    const [state, effects] = run(sender({ server: at(5), look: 1 }), { is: "looked", n: 1, focus: null, state: at(4) });
    expect(state.server?.version).toBe(5);
    expect(effects[0]?.do).toBe("look");
  });
  it("looks with the tag of what is there, and without one for a circuit not yet in full", () => {
    expect(tagOf(sender())).toBe('W/"e.1-"');
    expect(tagOf(sender({ focus: "c" }))).toBeNull();
    expect(tagOf(sender({ focus: "c", server: at(3, "c") }))).toBe('W/"e.3-c"');
    expect(run(sender(), { is: "tick" })[1]).toEqual([{ do: "look", n: 1, focus: null, tag: 'W/"e.1-"' }]);
    expect(run(sender({ queue: [item(1)], flow: { is: "signed-out" } }), { is: "tick" })[1]).toEqual([]);
  });
  it("rests longer each time no answer comes, up to a quarter of a minute, and not at all once one came", () => {
    let state = sender({ queue: [item(1)] });
    const rests: number[] = [];
    for (let i = 0; i < 6; i++) {
      [state] = run(state, { is: "elected" });
      const [next, effects] = run(state, { is: "failed", item: "i1", failure: "away", why: "", now: i });
      rests.push(...effects.flatMap((e) => (e.do === "wake" ? [e.after] : [])));
      [state] = run(next, { is: "wake", now: i });
    }
    expect(rests).toEqual([2000, 4000, 8000, 15_000, 15_000, 15_000]);
    const [landed] = run(state, { is: "landed", item: "i1", focus: null, state: at(2) });
    expect(landed.rests).toBe(0);
  });
});

describe("looking at a job", () => {
  it("asks once for the same, however many parts of the page want it, and anew for another circuit", () => {
    let state = begin("j", "me");
    let asked = 0;
    for (const focus of [null, null, "c", "c", null]) {
      const [next, effects] = step(state, { is: "focus", focus });
      asked += effects.filter((e) => e.do === "look").length;
      state = next;
    }
    expect(asked).toBe(3);
  });
});
