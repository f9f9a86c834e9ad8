import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";
import { Away } from "../../api/client";
import type { JobState } from "../../api/types";
import { Engine, type Remote } from "../engine";
import { Browser, Shelves } from "./browser";
import { FakeServer } from "./fake-server";

const settle = async (ms = 0) => {
  await vi.advanceTimersByTimeAsync(ms);
  for (let i = 0; i < 4; i++) await vi.advanceTimersByTimeAsync(0);
};

describe("a job opened with no server at all", () => {
  let server: FakeServer;
  let shelves: Shelves;
  let last: JobState | null;
  let away: boolean;
  let engine: Engine;

  beforeEach(() => {
    vi.useFakeTimers();
    server = new FakeServer();
    shelves = new Shelves();
    last = null;
    away = true;
  });
  afterEach(() => {
    engine.close();
    vi.useRealTimers();
  });

  async function open() {
    const there = server.remoteOf("me");
    const lost = async () => {
      throw new Away("away");
    };
    const remote: Remote = {
      ...there,
      look: (...asked) => (away ? lost() : there.look(...asked)),
      send: (...asked) => (away ? lost() : there.send(...asked)),
      recall: async () => last,
    };
    let count = 0;
    engine = new Engine("j", "me", remote, shelves.for("me"), new Browser().tabs(), () => `r${++count}`);
    void engine.open();
    await settle();
    return engine;
  }

  it("stands there as it was last looked at, and says that the server is away", async () => {
    last = (await server.remoteOf("me").look("j", null, null, new AbortController().signal)) as JobState;
    const a = await open();
    expect(a.get().state?.version).toBe(last.version);
    expect(a.get().flow.is).toBe("resting");
  });

  it("takes edits, keeps them, and sends them once the server is there", async () => {
    last = (await server.remoteOf("me").look("j", null, null, new AbortController().signal)) as JobState;
    const a = await open();
    a.edit([{ op: "set", kind: "job", id: "j", fields: { name: "Typed in a cellar" } }]);
    await settle(500);
    expect(a.get()).toMatchObject({ name: "Typed in a cellar", unsent: 1 });
    expect((await shelves.for("me").read()).queue).toHaveLength(1);
    away = false;
    await settle(60_000);
    expect(server.installation.name).toBe("Typed in a cellar");
    expect(a.get()).toMatchObject({ unsent: 0, flow: { is: "idle" } });
  });

  it("has nothing to show where it was never looked at, and never takes an old state over one it has", async () => {
    const a = await open();
    expect(a.get()).toMatchObject({ state: null, flow: { is: "resting" } });
    away = false;
    await settle(60_000);
    const version = a.get().state?.version;
    last = { ...(a.get().state as JobState), version: 0, id: "old" };
    away = true;
    a.look("c");
    await settle(10_000);
    expect(a.get().state?.version).toBe(version);
  });
});
