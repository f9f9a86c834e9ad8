import "fake-indexeddb/auto";
import { MessageChannel } from "node:worker_threads";
import { expose } from "comlink";
import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";
import { forgetBut, keep } from "../api/kept";
import shapes from "../api/shapes.gen.json";
import type { Change, JobState } from "../api/types";
import { Away, here, WORKED_HERE } from "../api/wire";
import { remembered } from "../ui/remembered";

const JOB = "00000000-0000-0000-0000-000000000001";
const KIT = { program: "p1", packs: [], prices: "" };
const state = (tag: string, version = 3) =>
  ({ tag, version, landed: null, installation: { name: tag, stages: [] } }) as unknown as JobState;
const change = (name: string): Change[] => [{ op: "set", kind: "job", id: "j", fields: { name } }];

/** What the worker was told and asked, in its order. */
let said: unknown[][];
let answers: { figures: unknown; ask: unknown };
let starts: "well" | "never" | "badly";
let ended: number;
let net: () => Promise<Response>;

class FakeWorker {
  onerror: (() => void) | null = null;
  private port;
  constructor() {
    const { port1, port2 } = new MessageChannel();
    this.port = port1;
    expose(
      {
        async start(runtime: string, archive: string, step: (done: number) => void) {
          said.push(["start", runtime, archive]);
          if (starts === "badly") throw new Error("no memory");
          if (starts === "never") await new Promise(() => {});
          await step(3);
        },
        lay: (job: string, text: string) => void said.push(["lay", job, JSON.parse(text)]),
        land: (job: string, changes: string, version: number) =>
          void said.push(["land", job, [JSON.parse(changes), version]]),
        log: (job: string, text: string) => void said.push(["log", job, JSON.parse(text)]),
        figures(job: string, changes: string, focus: string) {
          said.push(["figures", job, JSON.parse(changes), focus]);
          return JSON.stringify(answers.figures);
        },
        ask(text: string) {
          said.push(["ask", JSON.parse(text)]);
          return JSON.stringify(answers.ask);
        },
      },
      port2 as never,
    );
    port1.unref();
    port2.unref();
  }
  postMessage(message: unknown, transfer: never[]) {
    this.port.postMessage(message, transfer);
  }
  addEventListener(kind: string, listener: never) {
    this.port.addEventListener(kind as never, listener);
    this.port.start();
  }
  removeEventListener(kind: string, listener: never) {
    this.port.removeEventListener(kind as never, listener);
  }
  start() {
    this.port.start();
  }
  terminate() {
    ended += 1;
    this.port.close();
  }
}

/** A kit as the API declares it. */
const whole = (kit: object) => {
  const names = shapes.shapes[shapes.of["GET /api/jobs/{job_id}/kit"]] as string[];
  return { ...Object.fromEntries(names.map((name) => [name, null])), ...kit };
};
const question = (address: string, job = JOB) => ({
  method: "GET",
  address,
  path: { job_id: job },
  query: {},
  body: undefined,
});

describe("the program on this device", () => {
  let local: typeof import("./local")["local"];

  beforeEach(async () => {
    said = [];
    ended = 0;
    starts = "well";
    answers = { figures: { edition: "e" }, ask: { status: 200, body: { version: 1 }, cut: false } };
    vi.stubGlobal("Worker", FakeWorker);
    vi.stubGlobal("__RUNTIME__", "/assets/runtime-x/");
    vi.stubGlobal("location", { href: "http://here/jobs", origin: "http://here" });
    // No server: what it said last is what there is.
    net = async () => {
      throw new TypeError("no way there");
    };
    vi.stubGlobal("fetch", () => net());
    const Plain = globalThis.Request;
    vi.stubGlobal(
      "Request",
      class extends Plain {
        constructor(input: RequestInfo | URL, init?: RequestInit) {
          super(typeof input === "string" ? new URL(input, "http://here/") : input, init);
        }
      },
    );
    await forgetBut("");
    here.person = "ann";
    await keep("ann", "engine", { program: "p1", archive: "/engine/p1.zip" });
    await keep("ann", `${JOB}/kit`, KIT);
    remembered.set("mellow-span/works-here", null);
    vi.resetModules();
    ({ local } = await import("./local"));
    (await import("../api/wire")).here.person = "ann";
  });
  afterEach(() => {
    local.forget();
    vi.unstubAllGlobals();
  });

  it("is asleep until somebody needs it, is loaded once, and from here alone", async () => {
    expect(local.get().phase).toBe("asleep");
    expect(await local.figures(JOB, state("t"), [], null)).toBeNull();
    expect(await Promise.all([local.wake(), local.wake()])).toEqual([true, true]);
    expect(local.get()).toEqual({ phase: "ready", done: 1 });
    expect(said).toEqual([["start", "http://here/assets/runtime-x/", "http://here/engine/p1.zip"]]);
  });

  it("is never loaded where it was switched off, and goes at once when it is", async () => {
    local.turn(false);
    expect(await local.wake()).toBe(false);
    expect(said).toEqual([]);
    local.turn(true);
    expect(await local.wake()).toBe(true);
    local.turn(false);
    expect([local.get().phase, ended]).toEqual(["off", 1]);
    expect(await local.figures(JOB, state("t"), [], null)).toBeNull();
  });

  it("lays a job up once for a state of it, and again for the next, or where an edit of this page made it", async () => {
    await local.wake();
    said = [];
    await local.figures(JOB, state("a"), change("x"), "c");
    await local.figures(JOB, state("a"), change("y"), null);
    await local.figures(JOB, state("b"), [], null);
    const [laid, , , again] = said;
    expect(laid).toEqual(["lay", JOB, { installation: { name: "a", stages: [] }, version: 3, kit: KIT }]);
    expect(said.map(([what]) => what)).toEqual(["lay", "figures", "figures", "lay", "figures"]);
    expect(said[1]).toEqual(["figures", JOB, change("x"), "c"]);
    expect(again?.[2]).toMatchObject({ installation: { name: "b" } });
  });

  it("does not lay up again what has landed as it was changed here, and does where anything else came of it", async () => {
    await local.wake();
    said = [];
    const job = (name: string, tag: string, version: number) =>
      ({
        ...state(tag, version),
        installation: { name, boards: [], circuits: [], routes: [], stages: [] },
      }) as unknown as JobState;
    await local.figures(JOB, job("a", "1", 3), change("b"), null);
    await local.figures(JOB, job("b", "2", 4), change("c"), null);
    await local.figures(JOB, job("d", "3", 5), [], null);
    expect(said.map(([what, , more]) => (what === "land" ? [what, more] : what))).toEqual([
      "lay",
      "figures",
      ["land", [change("b"), 4]],
      "figures",
      "lay",
      "figures",
    ]);
    // One that could not be made has landed nowhere.
    answers.figures = { refused: { field: "name" } };
    await local.figures(JOB, job("d", "3", 5), change("e"), null);
    answers.figures = { edition: "e" };
    said = [];
    await local.figures(JOB, job("e", "4", 6), [], null);
    expect(said.map(([what]) => what)).toEqual(["lay", "figures"]);
  });

  it("answers questions of a job as it stands in this tab, with what waits to be sent", async () => {
    await keep("ann", `${JOB}/site`, {
      entries: [{ id: "e1", kind: "pulled", subject: "c", data: {}, at: "t", by: "bo" }],
    });
    await local.wake();
    local.stands(JOB, state("a"), change("x"));
    const photo = { id: "e3", kind: "photo", subject: null, data: { name: "n", image: "data:" }, at: "t" };
    local.writes(JOB, [{ id: "e1", kind: "pulled", subject: "c", data: {}, at: "t" }, photo], "ann");
    said = [];
    const found = await local.ask(question("/api/jobs/{job_id}/tests"));
    expect([found?.status, found?.headers.get(WORKED_HERE), await found?.json()]).toEqual([200, "yes", { version: 1 }]);
    expect(said.find(([what]) => what === "log")?.[2]).toEqual([
      { id: "e1", kind: "pulled", subject: "c", data: {}, at: "t", by: "bo" },
      { id: "e3", kind: "photo", subject: "", data: { name: "n" }, at: "t", by: "ann" },
    ]);
    expect(said.at(-1)).toMatchObject(["ask", { address: "/api/jobs/{job_id}/tests", job: JOB, changes: change("x") }]);
    // The log is laid up once.
    said = [];
    await local.ask(question("/api/jobs/{job_id}/tests"));
    expect(said.map(([what]) => what)).toEqual(["ask"]);
  });

  it("hands files over as files, and says what it did not look through", async () => {
    await local.wake();
    local.stands(JOB, state("a"), []);
    answers.ask = {
      status: 200,
      body: { text: "a,b", type: "text/csv", name: "schedule.csv" },
      cut: false,
      file: true,
    };
    const file = await local.ask(question("/api/jobs/{job_id}/papers/{paper_id}/{form}"));
    expect([await file?.text(), file?.headers.get("Content-Type")]).toEqual(["a,b", "text/csv"]);
    expect(file?.headers.get("Content-Disposition")).toContain('filename="schedule.csv"');
    answers.ask = { status: 200, body: [], cut: true };
    expect((await local.ask(question("/api/jobs/{job_id}/size")))?.headers.get("Search-Cut-Short")).toBe("yes");
  });

  it("has nothing to say where it cannot answer, a change cannot be made, or the job has no kit here", async () => {
    await local.wake();
    local.stands(JOB, state("a"), []);
    answers.ask = { status: 0, body: null, cut: false };
    expect(await local.ask(question("/api/jobs/{job_id}/history"))).toBeNull();
    answers.figures = { refused: { field: "csa" } };
    expect(await local.figures(JOB, state("a"), change("x"), null)).toBeNull();
    const other = "00000000-0000-0000-0000-000000000002";
    expect(await local.figures(other, state("a"), [], null)).toBeNull();
    expect(local.get().phase).toBe("ready");
  });

  it("stops where the server says that it works by another program by now; what was kept from before is as good as it was", async () => {
    await local.wake();
    await keep("ann", `${JOB}/kit`, { ...KIT, program: "p0" });
    expect(await local.figures(JOB, state("a"), [], null)).toEqual({ edition: "e" });
    net = async () => Response.json(whole({ ...KIT, program: "p2" }));
    await expect(local.bring(JOB)).rejects.toThrow("other rules");
    expect([local.get().phase, ended]).toEqual(["old", 1]);
    expect(await local.wake()).toBe(false);
    expect(await local.figures(JOB, state("a"), [], null)).toBeNull();
  });

  it("takes what the firm goes by now, once that was brought, and asks for it no more in between", async () => {
    let fetched = 0;
    await local.wake();
    await local.figures(JOB, state("a"), [], null);
    net = async () => {
      fetched += 1;
      return Response.json(whole({ ...KIT, prices: "dear" }));
    };
    await local.figures(JOB, state("b"), [], null);
    expect(fetched).toBe(0);
    await local.bring(JOB);
    said = [];
    await local.figures(JOB, state("b"), [], null);
    expect(said[0]?.[2]).toMatchObject({ kit: { prices: "dear" } });
    expect(fetched).toBe(1);
  });

  it("does one thing after the other: nothing comes between laying a job up and asking about it", async () => {
    await local.wake();
    said = [];
    await Promise.all([
      local.figures(JOB, state("a"), change("x"), null),
      local.figures(JOB, state("b"), change("y"), null),
      local.figures(JOB, state("a"), change("z"), null),
    ]);
    expect(said.map(([what]) => what)).toEqual(["lay", "figures", "lay", "figures", "lay", "figures"]);
  });

  it("tells that it could not be loaded, and may be tried again", async () => {
    starts = "badly";
    expect(await local.wake()).toBe(false);
    expect([local.get().phase, ended]).toEqual(["failed", 1]);
    starts = "well";
    expect(await local.wake()).toBe(true);
  });

  it("is given up where it does not answer", async () => {
    vi.useFakeTimers({ toFake: ["setTimeout", "clearTimeout"] });
    starts = "never";
    const waking = local.wake();
    await vi.waitFor(() => expect(said).toHaveLength(1));
    await vi.advanceTimersByTimeAsync(300_000);
    vi.useRealTimers();
    expect(await waking).toBe(false);
    expect(local.get().phase).toBe("failed");
  });

  it("stays off, and loads anew, whatever becomes of what was under way before", async () => {
    vi.useFakeTimers({ toFake: ["setTimeout", "clearTimeout"] });
    starts = "never";
    const waking = local.wake();
    await vi.waitFor(() => expect(said).toHaveLength(1));
    local.turn(false);
    await vi.advanceTimersByTimeAsync(300_000);
    expect([await waking, local.get().phase]).toEqual([false, "off"]);
    starts = "well";
    local.turn(true);
    await vi.waitFor(() => expect(local.get().phase).toBe("ready"));
    vi.useRealTimers();
    expect(await local.figures(JOB, state("a"), [], null)).toEqual({ edition: "e" });
  });

  it("is not begun for somebody who has gone meanwhile", async () => {
    // That the server is away would wake it again.
    vi.stubGlobal("navigator", { onLine: true, connection: { saveData: true } });
    const waking = local.wake();
    local.forget();
    expect([await waking, local.get().phase, said]).toEqual([false, "asleep", []]);
  });

  it("forgets the jobs of whoever was there, and the program itself is loaded anew", async () => {
    await local.wake();
    local.stands(JOB, state("a"), []);
    local.forget();
    expect([local.get().phase, ended]).toEqual(["asleep", 1]);
    expect(await local.wake()).toBe(true);
    said = [];
    answers.ask = { status: 0, body: null, cut: false };
    await local.ask(question("/api/jobs/{job_id}/tests"));
    expect(said.map(([what]) => what)).toEqual(["ask"]);
  });

  it.each([
    ["a connection like any other", { onLine: true }, true],
    ["one that is spared", { onLine: true, connection: { saveData: true } }, false],
    ["one that is paid for", { onLine: true, connection: { type: "cellular" } }, false],
    ["none, on a device that is told to spare", { onLine: false, connection: { saveData: true } }, true],
  ])("is loaded once the server is away, with %s", async (_, navigator, loads) => {
    vi.stubGlobal("navigator", navigator);
    const { reach } = await import("../api/wire");
    reach.is(true);
    await vi.waitFor(() => expect(local.get().phase).toBe(loads ? "ready" : "asleep"));
  });

  it("says away as away", () => expect(new Away("x")).toBeInstanceOf(Error));
});
