import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";
import { Away } from "../../api/client";
import type { Change, JobState } from "../../api/types";
import type { Figures } from "../../engine/local";
import { Engine, type Remote } from "../engine";
import { known, type Works } from "../here";
import type { Act, Item } from "../state";
import { Browser, Shelves } from "./browser";
import { FakeServer } from "./fake-server";

const settle = async (ms = 0) => {
  await vi.advanceTimersByTimeAsync(ms);
  for (let i = 0; i < 4; i++) await vi.advanceTimersByTimeAsync(0);
};
const rename = (name: string): Change[] => [{ op: "set", kind: "job", id: "j", fields: { name } }];
const acts = (...list: Act[]): Item[] =>
  list.map((act, seq) => ({ id: String(seq), seq, base: 1, act, tries: 0 }) as Item);

/** Works figures out by saying what it was asked: the edition tells the changes, the trouble the circuit. */
class Fake implements Works {
  ready = true;
  asked: { changes: readonly Change[]; focus: string | null }[] = [];
  told: { version: number; where: string[] }[] = [];
  holds: (() => void)[] | null = null;
  otherwise: Partial<Figures> = {};
  private listeners = new Set<() => void>();
  stands() {}
  closes() {}
  async figures(_: string, server: JobState, changes: readonly Change[], focus: string | null) {
    this.asked.push({ changes, focus });
    if (this.holds) await new Promise<void>((go) => this.holds?.push(go));
    const { summaries, attention, steps, detail, profile, paths, trouble, stage } = server;
    const edition = changes.map((c) => String(c.fields?.name)).join(" then ");
    return {
      summaries,
      attention,
      steps,
      detail,
      profile,
      paths,
      trouble,
      stage,
      edition,
      ...this.otherwise,
    } as Figures;
  }
  differs(_: string, version: number, where: string[]) {
    this.told.push({ version, where });
  }
  subscribe = (listener: () => void) => {
    this.listeners.add(listener);
    return () => void this.listeners.delete(listener);
  };
  awake() {
    this.ready = true;
    for (const listener of this.listeners) listener();
  }
}

describe("what is known of edits that wait", () => {
  const a = { is: "changes", changes: rename("a") } as const;
  const b = { is: "changes", changes: rename("b") } as const;
  it.each([
    ["nothing", [], []],
    ["one edit", [a], rename("a")],
    ["two in their order", [a, b], [...rename("a"), ...rename("b")]],
    ["one of two taken back again", [a, b, { is: "undo", again: false }], rename("a")],
    ["all taken back", [a, { is: "undo", again: false }], []],
    ["one taken back that the server has", [{ is: "undo", again: false }], null],
    ["more taken back than waits", [a, { is: "undo", again: false }, { is: "undo", again: false }], null],
    ["done again", [a, { is: "undo", again: true }], null],
    ["gone back to a version", [a, { is: "back", to: 1 }], null],
  ] as [string, Act[], Change[] | null][])("is said of %s", (_, list, changes) => {
    expect(known(acts(...list))).toEqual(changes);
  });
});

describe("figures worked out on this device", () => {
  let server: FakeServer;
  let shelves: Shelves;
  let works: Fake;
  let away: boolean;
  let engine: Engine;

  beforeEach(() => {
    vi.useFakeTimers();
    server = new FakeServer();
    shelves = new Shelves();
    works = new Fake();
    away = false;
  });
  afterEach(() => {
    engine.close();
    vi.useRealTimers();
  });

  async function open(mine: Works | null = works) {
    const there = server.remoteOf("me");
    const lost = async () => {
      throw new Away("away");
    };
    const remote: Remote = {
      ...there,
      look: (...asked) => (away ? lost() : there.look(...asked)),
      send: (...asked) => (away ? lost() : there.send(...asked)),
      attempt: (...asked) => (away ? lost() : there.attempt(...asked)),
    };
    let count = 0;
    const fresh = () => `h${++count}`;
    engine = new Engine("j", "me", remote, shelves.for("me"), new Browser().tabs(), fresh, () => [], mine);
    void engine.open();
    await settle();
    return engine;
  }

  it("stand in for the server's while it is away, and go when it answers", async () => {
    const a = await open();
    expect(a.get()).toMatchObject({ here: false, settled: true, behind: false });
    const before = a.get().asOf;
    away = true;
    a.edit(rename("In a cellar"));
    await settle();
    expect(a.get()).toMatchObject({ here: true, settled: true, behind: false, name: "In a cellar" });
    expect(a.get().state?.edition).toBe("In a cellar");
    expect(a.get().asOf).not.toBe(before);
    const first = a.get().asOf;
    a.edit(rename("Deeper"));
    await settle();
    expect(a.get().state?.edition).toBe("In a cellar then Deeper");
    expect(a.get().asOf).not.toBe(first);
    away = false;
    await settle(60_000);
    expect(a.get()).toMatchObject({ here: false, behind: false, unsent: 0, name: "Deeper" });
    expect(a.get().state?.edition).not.toContain("Deeper");
  });

  it("are never shown for what was typed before or after them", async () => {
    const a = await open();
    away = true;
    works.holds = [];
    a.edit(rename("one"));
    a.edit(rename("two"));
    await settle();
    const [first, second] = works.holds;
    second?.();
    await settle();
    expect(a.get().state?.edition).toBe("one then two");
    // The answer to the earlier text comes late.
    first?.();
    await settle();
    expect(a.get().state?.edition).toBe("one then two");
    a.edit(rename("three"));
    expect(a.get()).toMatchObject({ here: false, behind: true, settled: false });
  });

  it("are not made up where the server has to say what an edit does", async () => {
    const a = await open();
    away = true;
    a.undo();
    await settle();
    expect(works.asked).toEqual([]);
    expect(a.get()).toMatchObject({ here: false, behind: true, settled: false });
  });

  it("are had for a circuit that was never looked at, once the server is away", async () => {
    const a = await open();
    a.look("c9");
    await settle();
    expect(works.asked).toEqual([]);
    away = true;
    a.look("c1");
    await settle(10);
    expect(works.asked.at(-1)).toEqual({ changes: [], focus: "c1" });
    expect(a.get()).toMatchObject({ here: true, behind: false, unsent: 0 });
  });

  it("come once what works them out is there", async () => {
    works.ready = false;
    const a = await open();
    away = true;
    a.edit(rename("early"));
    await settle();
    expect(a.get()).toMatchObject({ here: false, behind: true });
    works.awake();
    await settle();
    expect(a.get().state?.edition).toBe("early");
  });

  it("are compared with the server's, and what differs is told", async () => {
    const a = await open();
    works.otherwise = { trouble: "something else" };
    a.edit(rename("x"));
    await settle(500);
    expect(a.get().unsent).toBe(0);
    expect(works.told).toEqual([{ version: a.get().state?.version, where: ["trouble"] }]);
    works.otherwise = {};
    a.edit(rename("y"));
    await settle(500);
    expect(works.told).toHaveLength(1);
  });

  it("are said once to have turned, where the server has it otherwise when all of it is there", async () => {
    const named = (verdict: string) => [{ id: "c1", verdict }] as Figures["summaries"];
    const plain = server.state.bind(server);
    server.state = (...asked) => ({ ...plain(...asked), summaries: named("short") });
    const a = await open();
    works.otherwise = { summaries: named("meets") };
    away = true;
    a.edit(rename("x"));
    a.edit(rename("y"));
    await settle();
    expect(a.get().said).toBeNull();
    away = false;
    await settle(60_000);
    expect(a.get().unsent).toBe(0);
    expect(a.get().said).toContain("different from what this device showed");
    expect(a.get().said).toContain("fails.");
    a.understood();
    works.otherwise = {};
    a.edit(rename("z"));
    await settle(500);
    expect([a.get().unsent, a.get().said]).toEqual([0, null]);
  });

  it("are not said to have turned by an edit of one's own that was typed after them", async () => {
    const named = (verdict: string) => [{ id: "c1", verdict }] as Figures["summaries"];
    const plain = server.state.bind(server);
    server.state = (...asked) => ({ ...plain(...asked), summaries: named("short") });
    const a = await open();
    works.otherwise = { summaries: named("meets") };
    away = true;
    a.look("c1");
    await settle(10);
    a.edit(rename("x"));
    await settle();
    // Figures of what comes next are still under way when it lands.
    works.holds = [];
    a.edit(rename("y"));
    away = false;
    await settle(60_000);
    expect([a.get().unsent, a.get().said]).toEqual([0, null]);
  });

  it("are tried out without a server, and nothing is kept of it", async () => {
    const a = await open();
    away = true;
    a.tryOut(rename("what if"));
    await settle();
    expect(a.get().state?.edition).toBe("what if");
    expect(a.get().name).toBe("what if");
    a.tryNoMore();
    expect(a.get().state?.edition).not.toBe("what if");
    expect(a.get().unsent).toBe(0);
  });

  it("are none where nothing works them out", async () => {
    const a = await open(null);
    away = true;
    a.edit(rename("alone"));
    await settle();
    expect(a.get()).toMatchObject({ here: false, behind: true, name: "alone" });
  });
});
