import "fake-indexeddb/auto";
import { afterEach, describe, expect, it } from "vitest";
import { closeShelf, fromEarlier, shelfOf, waiting } from "../shelf";
import type { Item } from "../state";

const item = (id: string, seq = 1): Item => ({
  id,
  seq,
  base: 1,
  act: { is: "changes", changes: [{ op: "set", kind: "job", id: "j", fields: { name: id } }] },
  tries: 0,
});

describe("unsent edits in the browser's storage", () => {
  afterEach(closeShelf);

  it("keeps them by person and job, in the order they were typed, over closing the page", async () => {
    const mine = shelfOf("me", "one");
    await mine.keep(item("b", 2));
    await mine.keep(item("a", 1));
    await shelfOf("me", "two").keep(item("c"));
    await shelfOf("you", "one").keep(item("d"));
    await closeShelf();
    expect((await shelfOf("me", "one").read()).queue.map((i) => i.id)).toEqual(["a", "b"]);
    expect((await shelfOf("you", "one").read()).queue).toEqual([item("d")]);
    expect(await waiting("me")).toEqual(
      new Map([
        ["one", 2],
        ["two", 1],
      ]),
    );
  });

  it("remembers what edits became while others wait, and forgets it with the last", async () => {
    const shelf = shelfOf("me", "log");
    await shelf.keep(item("a", 1));
    await shelf.keep(item("b", 2));
    await shelf.forget("a", { seq: 1, version: 7 }, false);
    expect(await shelf.read()).toEqual({ queue: [item("b", 2)], parked: [], landed: [{ seq: 1, version: 7 }] });
    await shelf.forget("b", { seq: 2, version: 8 }, true);
    expect(await shelf.read()).toEqual({ queue: [], parked: [], landed: [] });
  });

  it("moves an edit that is set aside out of those to send, until it is let go", async () => {
    const shelf = shelfOf("me", "aside");
    await shelf.keep(item("a"));
    await shelf.park({ item: item("a"), why: "no", error: null });
    expect(await shelf.read()).toMatchObject({ queue: [], parked: [{ item: { id: "a" }, why: "no" }] });
    await shelf.unpark("a");
    expect(await shelf.read()).toEqual({ queue: [], parked: [], landed: [] });
  });

  it("sets damaged rows aside and gives the others", async () => {
    const shelf = shelfOf("me", "bad");
    await shelf.keep({ id: "bad", seq: "x" } as never);
    await shelf.keep(item("good"));
    const found = await shelf.read();
    expect(found.queue).toEqual([item("good")]);
    expect(found.parked[0]?.why).toContain("damaged");
    await shelf.unpark("bad");
    expect((await shelf.read()).parked).toEqual([]);
  });

  it("shows what an earlier version of the page kept, without sending it", () => {
    const old = new Map([["mellow-span/unsent/j", JSON.stringify([{ edit_id: "e", version: 3, changes: ["old"] }])]]);
    const storage = { getItem: (k: string) => old.get(k) ?? null, removeItem: (k: string) => void old.delete(k) };
    expect(fromEarlier("j", storage)[0]?.item).toMatchObject({ id: "e", base: 3, act: { changes: ["old"] } });
    expect(fromEarlier("j", storage)).toEqual([]);
    expect(fromEarlier("j", { getItem: () => "{damaged", removeItem: () => {} })).toEqual([]);
  });
});
