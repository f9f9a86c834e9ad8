import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";
import type { Change, JobState } from "../../api/types";
import { Engine } from "../engine";
import type { Shelf } from "../shelf";
import { Browser, Shelves } from "./browser";
import { BOARD, FakeServer } from "./fake-server";

const rename = (name: string): Change => ({ op: "set", kind: "job", id: "j", fields: { name } });
const note = (text: string): Change => ({ op: "set", kind: "job", id: "j", fields: { note: text } });
const addCircuit = (id: string): Change => ({ op: "add", kind: "circuit", id, parent: BOARD, fields: { name: id } });

let server: FakeServer;
let shelves: Shelves;
let browser: Browser;
let open: Engine[];
let count = 0;

const settle = async (ms = 0) => {
  await vi.advanceTimersByTimeAsync(ms);
  for (let i = 0; i < 3; i++) await vi.advanceTimersByTimeAsync(0);
};

async function tab(person = "me", shelf: Shelf = shelves.for(person)) {
  const engine = new Engine("j", person, server.remoteOf(person), shelf, browser.tabs(), () => `e${++count}`);
  open.push(engine);
  void engine.open();
  await settle();
  return engine;
}
const names = () => server.installation.circuits.map((c) => c.id);
const kept = async (person = "me") => (await shelves.for(person).read()).queue.length;

beforeEach(() => {
  vi.useFakeTimers();
  shelves = new Shelves();
  server = new FakeServer();
  browser = new Browser();
  open = [];
});
afterEach(() => {
  for (const engine of open) engine.close();
  vi.useRealTimers();
});

describe("an outbox that cannot lose", () => {
  it("shows an edit at once, keeps it before it is answered, and forgets it once it is", async () => {
    let free = () => {};
    server.moods = [
      {
        hold: new Promise((done) => {
          free = done as () => void;
        }),
      },
    ];
    const a = await tab();
    a.edit([rename("Barn")]);
    expect(a.get()).toMatchObject({ name: "Barn", unsent: 1, flow: { is: "sending" } });
    await settle();
    expect(await kept()).toBe(1);
    free();
    await settle();
    expect(a.get()).toMatchObject({ name: "Barn", unsent: 0, flow: { is: "idle" } });
    expect(await kept()).toBe(0);
  });

  it("sends more than 200 changes typed while away in pieces, each once", async () => {
    server.moods = ["away"];
    const a = await tab();
    a.edit(Array.from({ length: 450 }, (_, i) => addCircuit(`c${i}`)));
    a.edit([rename("after")]);
    await settle();
    expect(a.get().flow.is).toBe("resting");
    await settle(2100);
    expect(names()).toHaveLength(450);
    expect(server.largest).toBe(200);
    expect(server.installation.name).toBe("after");
  });

  it("sets one impossible change of an edit aside, says which, and sends the others", async () => {
    server.impossible = (c) =>
      c.id === "bad"
        ? { field: "name", given: "", allowed: "text", message: "no", change: null, kind: "circuit", id: "bad" }
        : null;
    const a = await tab();
    a.edit([addCircuit("good"), addCircuit("bad"), addCircuit("fine")]);
    await settle();
    expect(names()).toEqual(["good", "fine"]);
    expect(a.get()).toMatchObject({ refused: { field: "name" }, unsent: 0, flow: { is: "idle" } });
    expect(a.get().parked.map((p) => p.item.act)).toEqual([{ is: "changes", changes: [addCircuit("bad")] }]);
    server.impossible = () => null;
    a.retryParked(a.get().parked[0]?.item.id ?? "");
    await settle();
    expect(names()).toContain("bad");
    expect((await shelves.for("me").read()).parked).toEqual([]);
  });

  it("sets a whole edit aside where the refusal names no change, and asks; what is behind it goes on", async () => {
    server.moods = [{ refuse: null }];
    const a = await tab();
    a.edit([rename("x"), note("y")]);
    a.edit([addCircuit("behind")]);
    await settle();
    expect(names()).toEqual(["behind"]);
    expect(a.get().parked).toHaveLength(1);
    expect((await shelves.for("me").read()).parked[0]?.item.act).toEqual({
      is: "changes",
      changes: [rename("x"), note("y")],
    });
    a.letGo(a.get().parked[0]?.item.id ?? "");
    await settle();
    expect((await shelves.for("me").read()).parked).toEqual([]);
  });

  it("leaves a job during a hanging send and makes the edit once on coming back", async () => {
    server.moods = [{ hold: new Promise(() => {}) }];
    const a = await tab();
    a.edit([addCircuit("c")]);
    await settle();
    a.close();
    const b = await tab();
    await settle();
    expect(names()).toEqual(["c"]);
    expect(b.get().unsent).toBe(0);
    expect(await kept()).toBe(0);
  });

  it("sends from one of two tabs; the other shows the edits of both, and takes over when the first closes", async () => {
    const a = await tab();
    const b = await tab();
    server.moods = ["away"];
    b.edit([addCircuit("fromB")]);
    await settle();
    expect(a.get().unsent).toBe(1);
    expect(b.get().inputs?.circuits.map((c) => c.id)).toEqual(["fromB"]);
    a.close();
    await settle(2500);
    expect(names()).toEqual(["fromB"]);
    expect(b.get().unsent).toBe(0);
    b.edit([addCircuit("again")]);
    await settle();
    expect(names()).toEqual(["fromB", "again"]);
    expect(server.log).toHaveLength(2);
  });

  it("sends no edit twice from two tabs", async () => {
    const a = await tab();
    const b = await tab();
    for (let i = 0; i < 10; i++) (i % 2 ? a : b).edit([addCircuit(`c${i}`)]);
    await settle(100);
    expect([...names()].sort()).toEqual(Array.from({ length: 10 }, (_, i) => `c${i}`).sort());
    expect([a.get().unsent, b.get().unsent]).toEqual([0, 0]);
    await settle(3100);
    expect(a.get().state?.version).toBe(b.get().state?.version);
  });

  it("repeats an edit whose answer was lost, after a colleague's, without doing it twice or clashing with itself", async () => {
    const a = await tab();
    server.moods = ["lost"];
    a.edit([rename("Mine")]);
    a.edit([rename("Mine again")]);
    await settle();
    server.other([note("theirs")]);
    await settle(2100);
    expect(server.log.map((s) => s.person)).toEqual(["me", "them", "me"]);
    expect(a.get()).toMatchObject({ name: "Mine again", unsent: 0, flow: { is: "idle" } });
  });

  it("does not go back to an older job when a look answers after an edit", async () => {
    const a = await tab();
    let free = () => {};
    server.looks = [
      {
        hold: new Promise((done) => {
          free = done as () => void;
        }),
      },
    ];
    const old = server.state();
    a.look("c");
    a.edit([rename("New")]);
    await settle();
    vi.spyOn(server, "state").mockReturnValueOnce({ ...old, detail: { id: "c" } as JobState["detail"] });
    free();
    await settle();
    expect(a.get()).toMatchObject({ name: "New", state: { version: 2 } });
  });

  it("shows the circuit opened last when the answers of two looks swap", async () => {
    const a = await tab();
    let free = () => {};
    server.looks = [
      {
        hold: new Promise((done) => {
          free = done as () => void;
        }),
      },
      "well",
    ];
    a.look("first");
    a.look("second");
    await settle();
    free();
    await settle();
    expect(a.get().state?.detail?.id).toBe("second");
  });

  it("asks for a sign-in when signed out while only reading, and goes on after it", async () => {
    const a = await tab();
    server.signedIn = null;
    a.look("c");
    await settle();
    expect(a.get().flow.is).toBe("signed-out");
    server.signedIn = "me";
    a.signedIn("me");
    await settle();
    expect(a.get()).toMatchObject({ flow: { is: "idle" }, state: { detail: { id: "c" } } });
  });

  it("looks again by itself when the server was away while only reading", async () => {
    server.looks = ["away", "away"];
    const a = await tab();
    expect(a.get().flow.is).toBe("resting");
    await settle(2100);
    await settle(4100);
    expect(a.get()).toMatchObject({ flow: { is: "idle" }, name: "House" });
  });

  it("asks for a new token after being away, and sends the same edit once", async () => {
    const a = await tab();
    server.moods = ["away", "denied"];
    a.edit([addCircuit("c")]);
    await settle(2100);
    expect(names()).toEqual(["c"]);
    expect(a.get().flow.is).toBe("idle");
  });

  it("takes two refusals of the token for a sign-out and keeps the edit", async () => {
    const a = await tab();
    server.moods = ["denied", "denied"];
    a.edit([addCircuit("c")]);
    await settle();
    expect(a.get()).toMatchObject({ flow: { is: "signed-out" }, unsent: 1 });
    a.signedIn("me");
    await settle();
    expect(names()).toEqual(["c"]);
  });

  it("is not led astray by a look that lands while the token is asked for", async () => {
    const a = await tab();
    let free = () => {};
    server.looks = [
      {
        hold: new Promise((done) => {
          free = done as () => void;
        }),
      },
    ];
    a.look("c");
    server.moods = ["denied"];
    a.edit([addCircuit("x")]);
    free();
    await settle();
    expect(names()).toEqual(["x"]);
    expect(a.get()).toMatchObject({ unsent: 0, flow: { is: "idle" } });
  });

  it("sets an edit aside that the server fails over every time, and what is behind it goes on", async () => {
    const a = await tab();
    server.moods = ["broken", "broken", "broken", "broken"];
    a.edit([addCircuit("stuck")]);
    a.edit([addCircuit("behind")]);
    await settle();
    expect(a.get().flow).toMatchObject({ is: "resting", why: "trouble" });
    await settle(2100);
    await settle(4100);
    await settle(8100);
    expect(names()).toEqual(["behind"]);
    expect(a.get().parked[0]?.why).toContain("The server failed each time");
    expect(a.get().unsent).toBe(0);
  });

  it("sends all the same when the storage is full or broken, and says that nothing is kept", async () => {
    const broken: Shelf = {
      read: () => Promise.reject(new Error("damaged")),
      keep: () => Promise.reject(new DOMException("full", "QuotaExceededError")),
      forget: () => Promise.reject(new Error("damaged")),
      park: () => Promise.reject(new Error("damaged")),
      unpark: () => Promise.reject(new Error("damaged")),
    };
    const a = await tab("me", broken);
    a.edit([addCircuit("c")]);
    await settle();
    expect(names()).toEqual(["c"]);
    expect(a.get()).toMatchObject({ keeps: false, unsent: 0 });
  });

  it("shows what a drag would do, and nothing of it once it is cancelled", async () => {
    const a = await tab();
    a.tryOut([rename("try 1")]);
    a.tryOut([rename("try 2")]);
    a.tryOut([rename("try 3")]);
    await settle();
    expect(a.get().name).toBe("try 3");
    a.tryOut([rename("try 4")]);
    a.tryNoMore();
    await settle();
    expect(a.get()).toMatchObject({ name: "House", unsent: 0 });
    expect(server.version).toBe(1);
  });

  it("keeps an edit when taking its answer in throws, and takes it in on the next try", async () => {
    const a = await tab();
    vi.spyOn(console, "error").mockImplementation(() => {});
    const torn = {
      version: 2,
      get installation(): JobState["installation"] {
        throw new Error("torn");
      },
    } as JobState;
    vi.spyOn(server, "state").mockImplementationOnce(() => torn);
    a.edit([addCircuit("c")]);
    await settle();
    expect(console.error).toHaveBeenCalled();
    expect(a.get()).toMatchObject({ unsent: 1, flow: { is: "resting" } });
    await settle(2100);
    expect(names()).toEqual(["c"]);
    expect(a.get().unsent).toBe(0);
  });

  it("never sends one member's edits as another who signs in at the same browser", async () => {
    const a = await tab("me");
    server.moods = ["denied"];
    server.signedIn = "somebody";
    a.edit([addCircuit("mine")]);
    let met = false;
    a.onStranger = () => {
      met = true;
    };
    await settle();
    expect([met, a.get().flow.is]).toEqual([true, "stranger"]);
    a.close();
    const b = await tab("somebody");
    await settle(3100);
    expect(names()).toEqual([]);
    expect(b.get().unsent).toBe(0);
    b.close();
    server.signedIn = "me";
    const c = await tab("me");
    await settle();
    expect(names()).toEqual(["mine"]);
    expect(c.get().unsent).toBe(0);
  });

  it("keeps unsent edits over a sign-out", async () => {
    const a = await tab();
    server.moods = ["away"];
    a.edit([addCircuit("c")]);
    await settle();
    a.close();
    server.signedIn = null;
    expect([await kept("me"), await kept("somebody")]).toEqual([1, 0]);
    const b = await tab();
    expect(b.get()).toMatchObject({ unsent: 1, flow: { is: "signed-out" } });
  });

  it("keeps an edit of a job that is gone", async () => {
    const a = await tab();
    server.moods = ["gone"];
    a.edit([addCircuit("c")]);
    await settle();
    expect(a.get()).toMatchObject({ flow: { is: "gone" }, unsent: 1 });
    expect(await kept()).toBe(1);
  });
});

describe("a backup put back under open pages", () => {
  const saved = async (...names: string[]) => {
    const a = await tab();
    for (const name of names) {
      a.edit([rename(name)]);
      await settle(10);
    }
    return a;
  };

  it("shows the job as it was then, says so, and asks no more often for it", async () => {
    const a = await saved("one", "two", "three");
    const b = await tab();
    expect(a.get().state?.version).toBe(4);
    server.restore(2);
    await settle(3100);
    for (const page of [a, b]) {
      expect(page.get().name).toBe("one");
      expect(page.get().state?.version).toBe(2);
      expect(page.get().said).toContain("put back to 14:02");
      expect(page.get().said).toContain("saved after that is gone");
      expect(page.get().flow).toEqual({ is: "idle" });
    }
    const before = server.asked;
    await settle(30_000);
    expect(server.asked - before).toBeLessThanOrEqual(22);
    a.understood();
    await settle(10_000);
    expect(a.get().said).toBeNull();
    a.edit([rename("anew")]);
    await settle(10);
    expect(server.installation.name).toBe("anew");
    expect(a.get().state?.version).toBe(3);
  });

  it.each([[true], [false]])(
    "sends nothing typed on the other history by itself, first looked at: %s",
    async (looks) => {
      const a = await saved("one", "two");
      server.moods = ["away"];
      server.looks = ["away"];
      a.edit([note("mine")]);
      a.edit([addCircuit("c1")]);
      await settle(10);
      expect(a.get().unsent).toBe(2);
      server.restore(1);
      if (looks) a.reload();
      else a.again();
      await settle(20_000);
      expect(server.log).toEqual([]);
      expect(a.get().unsent).toBe(0);
      expect(a.get().parked.map((p) => p.why)).toEqual(Array(2).fill(expect.stringContaining("put back to")));
      expect(a.get().said).toContain("14:02");
      expect((await shelves.for("me").read()).parked).toHaveLength(2);
      expect(await kept()).toBe(0);
      for (const { item } of a.get().parked) a.retryParked(item.id);
      await settle(10_000);
      expect(server.installation.note).toBe("mine");
      expect(names()).toEqual(["c1"]);
      expect(a.get().parked).toEqual([]);
    },
  );

  it("holds a page that was closed meanwhile to it as well", async () => {
    const a = await saved("one");
    server.moods = Array(20).fill("away");
    a.edit([note("mine")]);
    await settle(10);
    a.close();
    server.restore(1);
    server.moods = [];
    const b = await tab();
    await settle(10_000);
    expect(server.log).toEqual([]);
    expect(b.get().parked).toHaveLength(1);
    expect(b.get().name).toBe(server.installation.name);
  });
});

describe("two people on one job", () => {
  it("merges what does not touch, without a word", async () => {
    const a = await tab();
    server.other([note("theirs")]);
    a.edit([rename("Mine")]);
    await settle();
    expect(server.installation).toMatchObject({ name: "Mine", note: "theirs" });
    expect(a.get().flow.is).toBe("idle");
  });

  it("shows theirs within five seconds, while mine is typed on", async () => {
    const a = await tab();
    server.other([note("theirs")]);
    await settle(3100);
    expect(a.get().inputs?.note).toBe("theirs");
    const before = server.asked;
    await settle(3100);
    expect(server.asked).toBe(before + 1);
  });

  it.each([
    ["mine", "Mine"],
    ["theirs", "Theirs"],
  ] as const)("asks once where both set the same, and makes it %s", async (choice, name) => {
    const a = await tab();
    server.other([rename("Theirs")]);
    a.edit([rename("Mine"), note("kept")]);
    a.edit([rename("Mine too")]);
    await settle();
    expect(a.get()).toMatchObject({ flow: { is: "clash" }, unsent: 3 });
    a.resolve([choice]);
    await settle();
    expect(a.get()).toMatchObject({ flow: { is: "idle" }, unsent: 0 });
    expect(server.installation).toMatchObject({ name: choice === "mine" ? "Mine too" : name, note: "kept" });
  });

  it("leaves what I take back before it was sent unsent, in order, and does it again", async () => {
    const a = await tab();
    server.moods = ["away", "away"];
    a.edit([addCircuit("first")]);
    a.edit([addCircuit("second")]);
    await settle();
    a.undo();
    expect(a.get().inputs?.circuits.map((c) => c.id)).toEqual(["first"]);
    a.undo();
    expect(a.get().inputs?.circuits.map((c) => c.id)).toEqual([]);
    a.redo();
    a.redo();
    await settle(2100);
    await settle(4100);
    expect(server.log.filter((s) => s.changes.length > 0).map((s) => s.changes[0]?.id)).toEqual(["first", "second"]);
    expect(a.get().unsent).toBe(0);
  });

  it("says so where there is nothing to take back", async () => {
    const a = await tab();
    a.undo();
    await settle();
    expect(a.get()).toMatchObject({ unsent: 0, flow: { is: "idle" }, said: expect.stringContaining("nothing") });
  });
});

/** Small, seeded and good enough not chosen among events. */
function random(seed: number) {
  let x = seed * 2654435761 + 1;
  return (n: number) => {
    x ^= x << 13;
    x ^= x >>> 17;
    x ^= x << 5;
    return Math.abs(x) % n;
  };
}

describe("whatever happens", () => {
  it.each(Array.from({ length: 40 }, (_, i) => i))("keeps every edit exactly once: run %i", async (seed) => {
    const pick = random(seed + 7);
    const typed: string[] = [];
    const alive: Engine[] = [await tab()];
    for (let i = 0; i < 40; i++) {
      const engine = alive[pick(alive.length)] as Engine;
      const dice = pick(12);
      if (dice < 5) {
        const id = `n${seed}-${i}`;
        engine.edit([addCircuit(id)]);
        typed.push(id);
      } else if (dice === 5) server.moods.push((["away", "lost", "broken", "denied"] as const)[pick(4)] as "away");
      else if (dice === 6) server.looks.push((["away", "broken"] as const)[pick(2)] as "away");
      else if (dice === 7) server.other([note(`o${i}`)]);
      else if (dice === 8 && alive.length < 3) alive.push(await tab());
      else if (dice === 9 && alive.length > 1) alive.splice(pick(alive.length), 1)[0]?.close();
      else if (dice === 10) engine.look(pick(2) ? "c" : null);
      else await settle([0, 500, 2500, 9000][pick(4)]);
      if (pick(3) === 0) await settle();
    }
    server.moods = [];
    server.looks = [];
    for (let i = 0; i < 6; i++) {
      for (const engine of alive) if (engine.get().flow.is === "signed-out") engine.signedIn("me");
      await settle(16_000);
    }
    const aside =
      alive[0]?.get().parked.flatMap((p) => (p.item.act.is === "changes" ? p.item.act.changes.map((c) => c.id) : [])) ??
      [];
    expect([...names(), ...aside].sort()).toEqual([...typed].sort());
    for (const engine of alive) expect(engine.get()).toMatchObject({ unsent: 0, flow: { is: "idle" } });
    expect(await kept()).toBe(0);
  });
});
