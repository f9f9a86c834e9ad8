import "fake-indexeddb/auto";
import { IDBFactory } from "fake-indexeddb";
import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";
import { ApiError, Away } from "../../api/client";
import { type Beside, besideOf } from "../site/beside";
import { SiteLog } from "../site/log";
import { closeSiteShelf, type SiteShelf, siteShelfOf, siteWaiting } from "../site/shelf";
import type { NewEntry, Note, Refused, SiteEntry } from "../site/state";
import { Browser } from "./browser";
import { storage } from "./storage";

const tick = (subject: string): NewEntry => ({ kind: "pulled", subject, data: { done: true } });
const step = (record: string, name: string): NewEntry => ({ kind: "isolation", data: { record, step: name } });
const refusal = (status: number, message = "no") => new ApiError(status, { detail: message, errors: [] });
const settle = (ms = 0) => vi.advanceTimersByTimeAsync(ms);

/** A shelf in memory; full: it keeps nothing. */
function shelf({ full = false } = {}): SiteShelf & { rows: Map<string, SiteEntry>; refused: Map<string, Refused> } {
  const rows = new Map<string, SiteEntry>();
  const refused = new Map<string, Refused>();
  return {
    rows,
    refused,
    read: async () => ({ waiting: [...rows.values()], refused: [...refused.values()] }),
    keep: async (entry) => {
      if (full) throw new DOMException("full", "QuotaExceededError");
      rows.set(entry.id, entry);
      refused.delete(entry.id);
    },
    forget: async (id) => {
      rows.delete(id);
      refused.delete(id);
    },
    refuse: async (one) => {
      rows.delete(one.entry.id);
      refused.set(one.entry.id, one);
    },
    picture: async (id) => String(rows.get(id)?.data.image ?? "") || null,
    epoch: async () => "one",
  };
}

/** A server that takes entries, or does with them what it is told. */
function server(answer: (entry: SiteEntry) => unknown = () => {}) {
  const sent: SiteEntry[] = [];
  return {
    sent,
    send: vi.fn(async (entry: SiteEntry) => {
      const said = answer(entry);
      if (said instanceof Error) throw said;
      sent.push(entry);
    }),
    subjects: () => sent.map((e) => e.subject ?? e.data.step),
  };
}
type Send = (e: SiteEntry) => Promise<unknown>;
type SendAll = (entries: readonly SiteEntry[]) => Promise<readonly string[]>;

/** As the server takes several: each for itself, refused with its reason. */
const all =
  (send: Send): SendAll =>
  async (entries) => {
    const whys: string[] = [];
    for (const entry of entries)
      whys.push(
        await send(entry).then(
          () => "",
          (error) => {
            if (error instanceof ApiError && error.status === 422) return error.message;
            throw error;
          },
        ),
      );
    return whys;
  };
interface How {
  landed?: () => Promise<void>;
  beside?: Beside;
  sendAll?: SendAll;
  browser?: Browser<Note>;
  who?: () => Promise<string | null>;
}
const log = (send: Send, box: SiteShelf, how: How = {}) =>
  new SiteLog(
    "1",
    "j",
    {
      send,
      sendAll: how.sendAll ?? all(send),
      who: how.who ?? (async () => "1"),
      landed: how.landed ?? (async () => {}),
    },
    box,
    how.beside ?? besideOf("1", "j", null),
    (how.browser ?? new Browser<Note>()).tabs(),
  );

describe("what is written down on site", () => {
  beforeEach(() => void vi.useFakeTimers());
  afterEach(() => void vi.useRealTimers());

  it("is kept before it is sent, sent in order, and forgotten once it is answered", async () => {
    const box = shelf();
    const there = server((e) => (box.rows.has(e.id) ? undefined : new Error("sent before it was kept")));
    const one = log(there.send, box);
    one.add(tick("a"));
    one.add(tick("b"));
    await settle();
    expect(there.subjects()).toEqual(["a", "b"]);
    expect(box.rows.size).toBe(0);
    expect(one.get()).toEqual({ waiting: [], refused: [], keeping: [], unkept: [] });
  });

  it("is told as waiting here only once it is kept", async () => {
    const box = shelf();
    let kept = () => {};
    const keep = box.keep;
    box.keep = async (entry) => {
      await new Promise<void>((done) => {
        kept = done;
      });
      await keep(entry);
    };
    const one = log(async () => Promise.reject(new Away("away")), box);
    await settle();
    const id = one.add(tick("a"));
    await settle(1000);
    expect([one.get().waiting.length, one.get().keeping]).toEqual([1, [id]]);
    kept();
    await settle();
    expect([one.get().keeping, box.rows.size]).toEqual([[], 1]);
  });

  it("stays while the server is away, over a reload, and goes out once when it is back", async () => {
    const box = shelf();
    const before = log(async () => Promise.reject(new Away("away")), box);
    const first = before.add(tick("a"));
    await settle();
    before.close();
    let up = false;
    const there = server(() => (up ? undefined : new Away("away")));
    const one = log(there.send, box);
    await settle(10);
    one.add(tick("b"));
    await settle(20_000);
    expect(one.get().waiting).toHaveLength(2);
    up = true;
    await settle(60_000);
    expect(there.subjects()).toEqual(["a", "b"]);
    expect(there.sent[0]?.id).toBe(first);
  });

  it("asks less and less often while the server is away, and at once when the signal is back", async () => {
    const window = new EventTarget();
    vi.stubGlobal("addEventListener", window.addEventListener.bind(window));
    vi.stubGlobal("removeEventListener", window.removeEventListener.bind(window));
    const there = server(() => new Away("away"));
    const one = log(there.send, shelf());
    one.add(tick("a"));
    await settle(300_000);
    expect(there.send.mock.calls.length).toBeLessThan(30);
    const before = there.send.mock.calls.length;
    window.dispatchEvent(new Event("online"));
    await settle();
    expect(there.send.mock.calls.length).toBe(before + 1);
    one.close();
    vi.unstubAllGlobals();
  });

  it("keeps what is refused with the reason, goes on behind it, and sends or discards it as somebody decides", async () => {
    const box = shelf();
    let fine = false;
    const there = server((e) => (e.subject === "gone" && !fine ? refusal(422, "no such circuit") : undefined));
    const one = log(there.send, box);
    const id = one.add(tick("gone"));
    one.add(tick("b"));
    await settle();
    expect(there.subjects()).toEqual(["b"]);
    expect(one.get().refused.map((r) => [r.entry.subject, r.why])).toEqual([["gone", "no such circuit"]]);
    expect(log(there.send, box).get().refused).toEqual([]);
    const again = log(there.send, box);
    await settle();
    expect(again.get().refused).toHaveLength(1);
    fine = true;
    one.resend(id);
    await settle();
    expect(there.subjects()).toEqual(["b", "gone"]);
    fine = false;
    const other = one.add(tick("gone"));
    await settle();
    await one.discard(other);
    expect([one.get().refused, box.refused.size, box.rows.size]).toEqual([[], 0, 0]);
  });

  it.each([401, 403, 408, 425, 429])("waits where the answer is none yet (%i), and loses nothing", async (status) => {
    const box = shelf();
    let yet = false;
    const there = server(() => (yet ? undefined : refusal(status)));
    const one = log(there.send, box);
    one.add(tick("a"));
    await settle(5000);
    expect([one.get().waiting.length, one.get().refused.length, box.rows.size]).toEqual([1, 0, 1]);
    yet = true;
    await settle(60_000);
    expect(there.subjects()).toEqual(["a"]);
  });

  it.each([
    ["a fault of the server", refusal(500)],
    ["an answer that is none", new TypeError("not JSON")],
  ])("is not held up by one entry that meets %s, save what builds on it", async (_, trouble) => {
    let broken = true;
    const there = server((e) => (broken && (e.subject === "bad" || e.data.step === "begin") ? trouble : undefined));
    const one = log(there.send, shelf());
    one.add(tick("bad"));
    one.add(step("r1", "begin"));
    one.add(step("r1", "told"));
    one.add(step("r2", "told"));
    one.add(tick("b"));
    await settle();
    expect(there.subjects()).toEqual(["told", "b"]);
    expect(there.sent[0]?.data.record).toBe("r2");
    broken = false;
    await settle(60_000);
    expect(there.subjects()).toEqual(["told", "b", "bad", "begin", "told"]);
  });

  it("never forgets what another window found refused", async () => {
    const box = shelf();
    let busy = true;
    const one = log(async () => {
      if (busy) throw new Away("away");
    }, box);
    const id = one.add(tick("a"));
    await settle();
    await box.refuse({ entry: { id, kind: "pulled", subject: "a", data: {}, at: "" }, why: "no such circuit" });
    busy = false;
    await settle(60_000);
    expect(box.refused.size).toBe(1);
    expect(one.get().refused.map((r) => r.why)).toEqual(["no such circuit"]);
    expect(one.get().waiting).toEqual([]);
  });

  it("sends photos behind the text", async () => {
    let up = false;
    const there = server(() => (up ? undefined : new Away("away")));
    const one = log(there.send, shelf());
    one.add({ kind: "photo", subject: "picture", data: { image: "data:" } });
    one.add(tick("a"));
    await settle();
    up = true;
    await settle(60_000);
    expect(there.subjects()).toEqual(["a", "picture"]);
  });

  it("says what the browser could not keep, and sends it all the same", async () => {
    let up = false;
    const there = server(() => (up ? undefined : new Away("away")));
    const one = log(there.send, shelf({ full: true }));
    const id = one.add(tick("a"));
    await settle();
    expect(one.get().unkept).toEqual([id]);
    expect(one.get().waiting).toHaveLength(1);
    up = true;
    await settle(60_000);
    expect(there.subjects()).toEqual(["a"]);
    expect(one.get()).toEqual({ waiting: [], refused: [], keeping: [], unkept: [] });
  });

  it("keeps words beside the shelf where that is full, and a photo no longer than the page is open", async () => {
    const old = storage();
    const box = shelf({ full: true });
    const away = async () => Promise.reject(new Away("away"));
    const before = log(away, box, { beside: besideOf("1", "j", old) });
    const words = before.add(tick("a"));
    const photo = before.add({ kind: "photo", subject: "p", data: { image: "data:" } });
    await settle();
    expect(before.get().unkept).toEqual([photo]);
    expect([...old.kept.keys()]).toEqual([`mellow-span/site/1/j/${words}`]);
    before.close();
    const there = server();
    const after = log(there.send, box, { beside: besideOf("1", "j", old) });
    await settle();
    expect(there.subjects()).toEqual(["a"]);
    expect(old.kept.size).toBe(0);
    expect(after.get()).toEqual({ waiting: [], refused: [], keeping: [], unkept: [] });
  });

  it("keeps words beside a full shelf that were not accepted, until somebody decides", async () => {
    const old = storage();
    const box = shelf({ full: true });
    box.refuse = async () => Promise.reject(new DOMException("full", "QuotaExceededError"));
    const there = server(() => refusal(422, "no such part"));
    const before = log(there.send, box, { beside: besideOf("1", "j", old) });
    const id = before.add(tick("a"));
    await settle();
    expect(before.get().refused.map((r) => r.why)).toEqual(["no such part"]);
    expect(old.kept.size, "the page may close now").toBe(1);
    before.close();
    const after = log(there.send, box, { beside: besideOf("1", "j", old) });
    await settle();
    expect(after.get().refused.map((r) => r.entry.id)).toEqual([id]);
    await after.discard(id);
    expect(old.kept.size).toBe(0);
  });

  it("keeps and sends what it knows where the browser threw its storage away", async () => {
    const box = shelf();
    let up = false;
    let epoch = "one";
    box.epoch = async () => epoch;
    const there = server(() => (up ? undefined : new Away("away")));
    const one = log(there.send, box);
    await settle();
    one.add(tick("a"));
    one.add(tick("b"));
    await settle();
    box.rows.clear();
    epoch = "two";
    up = true;
    await settle(60_000);
    expect(there.subjects()).toEqual(["a", "b"]);
    expect(box.rows.size).toBe(0);
  });

  describe("sent together", () => {
    type Whys = readonly string[];
    const together = (answer: (entries: readonly SiteEntry[]) => Promise<Whys> | Whys, box = shelf()) => {
      const there = server();
      const all = vi.fn(async (entries: readonly SiteEntry[]) => answer(entries));
      const one = log(there.send, box, { sendAll: all });
      return { one, box, all, there };
    };
    const busy = async (one: SiteLog, count: number) => {
      for (let k = 0; k < count; k++) one.add(tick(`${k}`));
      await settle(60_000);
    };

    it("are sixty readings in a few questions, in their order, photos by themselves behind them", async () => {
      const got: (string | null)[] = [];
      const { one, all, there, box } = together((entries) => {
        got.push(...entries.map((e) => e.subject));
        return entries.map(() => "");
      });
      one.add({ kind: "photo", subject: "picture", data: { image: "data:" } });
      await busy(one, 60);
      expect([...got, ...there.subjects()]).toEqual([...Array.from({ length: 60 }, (_, k) => `${k}`), "picture"]);
      expect(all.mock.calls.length).toBeLessThan(5);
      expect(box.rows.size).toBe(0);
    });

    it("keep each its own fate: one that is not accepted holds up none", async () => {
      const { one, box } = together((entries) => entries.map((e) => (e.subject === "3" ? "no such part" : "")));
      await busy(one, 6);
      expect(one.get().refused.map((r) => [r.entry.subject, r.why])).toEqual([["3", "no such part"]]);
      expect(one.get().waiting).toEqual([]);
      expect(box.rows.size).toBe(0);
    });

    it.each([
      ["the server cannot read one of them", () => Promise.reject(refusal(422))],
      ["the server fails over one of them", () => Promise.reject(refusal(500))],
      ["something else answers", () => []],
    ])("go each for itself where %s", async (_, answer) => {
      const { one, there, box } = together(answer);
      await busy(one, 4);
      expect(there.subjects()).toEqual(["0", "1", "2", "3"]);
      expect(box.rows.size).toBe(0);
    });

    it("wait while the server is away", async () => {
      let up = false;
      const { one, there, all } = together(async (entries) => {
        if (!up) throw new Away("away");
        return entries.map(() => "");
      });
      there.send.mockRejectedValueOnce(new Away("away"));
      await busy(one, 3);
      expect(one.get().waiting).toHaveLength(3);
      const calls = all.mock.calls.length;
      up = true;
      await settle(60_000);
      expect(one.get().waiting).toEqual([]);
      expect(there.sent).toEqual([]);
      expect(all).toHaveBeenCalledTimes(calls + 1);
    });
  });

  it("lays the views anew once for many entries, and lets them stand until that is done", async () => {
    const landed = vi.fn(async () => {});
    const there = server();
    const one = log(there.send, shelf(), { landed });
    for (let k = 0; k < 60; k++) one.add(tick(`${k}`));
    await settle(1000);
    expect(there.sent).toHaveLength(60);
    expect(landed.mock.calls.length).toBeLessThan(5);
    let fails = true;
    const slow = log(server().send, shelf(), {
      landed: async () => {
        if (fails) throw new Away("away");
      },
    });
    slow.add(tick("a"));
    await settle();
    expect(slow.get().waiting, "sent, but the views do not show it yet").toHaveLength(1);
    fails = false;
    await settle(60_000);
    expect(slow.get().waiting).toEqual([]);
  });

  it("takes over what an earlier version of the page kept, and leaves what is damaged", async () => {
    const old = storage();
    const entry = { id: "e", kind: "pulled", subject: "a", data: {}, at: "2026-01-01T08:00:00Z" };
    old.setItem("mellow-span/site/1/j/e", JSON.stringify(entry));
    old.setItem("mellow-span/site/1/j/x", "{");
    old.setItem("mellow-span/site/2/j/y", JSON.stringify({ ...entry, id: "y" }));
    const there = server();
    log(there.send, shelf(), { beside: besideOf("1", "j", old) });
    await settle();
    expect(there.sent.map((e) => e.id)).toEqual(["e"]);
    expect([...old.kept.keys()].sort()).toEqual(["mellow-span/site/1/j/x", "mellow-span/site/2/j/y"]);
  });
});

describe("two windows of one browser", () => {
  beforeEach(() => void vi.useFakeTimers());
  afterEach(() => void vi.useRealTimers());

  it("send from one, show what the other wrote, and lay the views anew in both", async () => {
    const [box, browser, there] = [shelf(), new Browser<Note>(), server()];
    const views = [vi.fn(async () => {}), vi.fn(async () => {})];
    const [a, b] = views.map((landed) => log(there.send, box, { browser, landed })) as [SiteLog, SiteLog];
    await settle();
    b.add(tick("from b"));
    await settle();
    expect(there.subjects()).toEqual(["from b"]);
    expect(views.map((v) => v.mock.calls.length)).toEqual([1, 1]);
    expect([a, b].map((w) => w.get().waiting)).toEqual([[], []]);
  });

  it("send from the other what one could not keep, and what it wrote once that one is closed", async () => {
    const [browser, there] = [new Browser<Note>(), server()];
    log(there.send, shelf({ full: true }), { browser });
    const b = log(there.send, shelf({ full: true }), { browser });
    await settle();
    const id = b.add({ kind: "photo", subject: "p", data: { image: "data:whole" } });
    expect(b.get().unkept).toEqual([]);
    await settle();
    expect(there.sent.map((e) => [e.id, e.data.image])).toEqual([[id, "data:whole"]]);
  });

  it("both show what was not accepted, and neither once it is discarded in one", async () => {
    const [box, browser] = [shelf(), new Browser<Note>()];
    const there = server(() => refusal(422, "no such part"));
    const [a, b] = [log(there.send, box, { browser }), log(there.send, box, { browser })];
    await settle();
    const id = b.add(tick("x"));
    await settle();
    expect([a, b].map((w) => w.get().refused.map((r) => r.why))).toEqual([["no such part"], ["no such part"]]);
    a.discard(id);
    await settle();
    expect([a, b].map((w) => w.get().refused)).toEqual([[], []]);
    expect(box.refused.size).toBe(0);
  });

  it("send nothing as somebody else who signed in", async () => {
    const there = server(() => refusal(401));
    const one = log(there.send, shelf(), { who: async () => "2" });
    const stranger = vi.fn();
    one.onStranger = stranger;
    one.add(tick("mine"));
    await settle(300_000);
    expect(there.send).toHaveBeenCalledTimes(1);
    expect(stranger).toHaveBeenCalledTimes(1);
    expect(one.get().waiting).toHaveLength(1);
  });

  it("go on by themselves after a sign-in", async () => {
    let person: string | null = null;
    const there = server(() => (person ? undefined : refusal(401)));
    const one = log(there.send, shelf(), { who: async () => person });
    one.add(tick("a"));
    await settle(60_000);
    expect(one.get().waiting).toHaveLength(1);
    person = "1";
    await settle(60_000);
    expect(there.subjects()).toEqual(["a"]);
  });

  it.each(Array.from({ length: 40 }, (_, seed) => seed + 1))(
    "end with each entry there once, or told as not accepted, whatever happens on the way (%i)",
    async (seed) => {
      const any = numbers(seed);
      const [box, old, browser] = [shelf(), storage(), new Browser<Note>()];
      const there = new Map<string, SiteEntry>();
      let well = false;
      const moods = [new Away("away"), refusal(500), refusal(429), refusal(401), refusal(403)];
      const send = async (entry: SiteEntry) => {
        await new Promise((done) => setTimeout(done, any(400)));
        const mood = well ? 0 : any(12);
        if (mood >= 7 && mood < 7 + moods.length) throw moods[mood - 7];
        if (entry.subject === "bad") throw refusal(422, "no such part");
        there.set(entry.id, there.get(entry.id) ?? entry);
        // Stored, but the answer was lost.
        if (mood === 6) throw new Away("away");
      };
      const full = { keep: box.keep };
      const open: SiteLog[] = [];
      const window = () =>
        open.push(log(send, box, { browser, beside: besideOf("1", "j", old), landed: async () => {} }));
      const written: { id: string; bad: boolean }[] = [];
      const records: string[][] = [[], []];
      window();
      for (let k = 0; k < 60; k++) {
        const one = open[any(open.length)] as SiteLog;
        switch (any(10)) {
          case 0:
            if (open.length < 3) window();
            break;
          case 1:
            if (open.length > 1 && one.get().unkept.length === 0) {
              open.splice(open.indexOf(one), 1)[0]?.close();
              break;
            }
            break;
          case 2:
            box.keep = box.keep === full.keep ? async () => Promise.reject(new DOMException("", "Quota")) : full.keep;
            break;
          case 3:
            written.push({ id: one.add({ kind: "photo", subject: "p", data: { image: "data:" } }), bad: false });
            break;
          case 4:
          case 5: {
            const record = any(2);
            // One window does one record.
            const id = (open[0] as SiteLog).add(step(`r${record}`, `${records[record]?.length}`));
            records[record]?.push(id);
            written.push({ id, bad: false });
            break;
          }
          default: {
            const bad = any(6) === 0;
            written.push({ id: one.add(tick(bad ? "bad" : `t${k}`)), bad });
          }
        }
        await settle(any(3000));
      }
      box.keep = full.keep;
      well = true;
      await settle(200_000);
      const [last] = open as [SiteLog];
      const refused = written.filter((w) => w.bad).map((w) => w.id);
      expect(last.get().waiting).toEqual([]);
      expect([...there.keys()].sort()).toEqual(
        written
          .filter((w) => !w.bad)
          .map((w) => w.id)
          .sort(),
      );
      expect(
        last
          .get()
          .refused.map((r) => r.entry.id)
          .sort(),
      ).toEqual([...refused].sort());
      for (const record of records) expect([...there.keys()].filter((id) => record.includes(id))).toEqual(record);
      expect([box.rows.size, box.refused.size]).toEqual([0, refused.length]);
      for (const one of open) one.close();
    },
  );
});

/** Numbers below a bound, the same for the same seed. */
function numbers(seed: number) {
  let state = seed * 2_654_435_761;
  return (below: number) => {
    state = (Math.imul(state ^ (state >>> 15), 2_246_822_519) + 0x9e3779b9) >>> 0;
    return (state >>> 8) % below;
  };
}

describe("the shelf of the site log", () => {
  beforeEach(async () => {
    await closeSiteShelf();
    globalThis.indexedDB = new IDBFactory();
  });

  it("keeps by person and job, and counts what waits and what was not accepted", async () => {
    const entry = (id: string): SiteEntry => ({
      id,
      kind: "pulled",
      subject: null,
      data: {},
      at: "2026-01-01T08:00:00Z",
    });
    const mine = siteShelfOf("1", "j");
    await mine.keep(entry("a"));
    await mine.keep(entry("b"));
    await siteShelfOf("1", "k").keep(entry("c"));
    await siteShelfOf("2", "j").keep(entry("d"));
    await mine.refuse({ entry: entry("b"), why: "no" });
    expect((await mine.read()).waiting.map((e) => e.id)).toEqual(["a"]);
    expect((await mine.read()).refused).toEqual([{ entry: entry("b"), why: "no" }]);
    expect([...(await siteWaiting("1"))]).toEqual([
      ["j", 2],
      ["k", 1],
    ]);
    await mine.forget("a");
    await mine.keep(entry("b"));
    expect((await mine.read()).waiting.map((e) => e.id)).toEqual(["b"]);
  });

  it("keeps a picture by itself, gives it back whole, and with what was not accepted", async () => {
    const mine = siteShelfOf("1", "j");
    const image = `data:image/jpeg;base64,${btoa("\xff\xd8\xff picture")}`;
    const photo = {
      id: "p",
      kind: "photo",
      subject: null,
      data: { name: "terminals", image },
      at: "2026-01-01T08:00:00Z",
    };
    await mine.keep(photo);
    expect((await mine.read()).waiting).toEqual([{ ...photo, data: { name: "terminals" } }]);
    expect(await mine.picture("p")).toBe(image);
    await mine.refuse({ entry: { ...photo, data: { name: "terminals" } }, why: "too many" });
    expect((await mine.read()).refused).toEqual([{ entry: photo, why: "too many" }]);
    expect(await mine.picture("q")).toBeNull();
    expect(await mine.epoch()).toBe(await siteShelfOf("2", "k").epoch());
  });

  it("holds thirty photos", async () => {
    const mine = siteShelfOf("1", "j");
    const image = `data:image/jpeg;base64,${"A".repeat(300_000)}`;
    for (let k = 0; k < 30; k++)
      await mine.keep({ id: `p${k}`, kind: "photo", subject: null, data: { image }, at: "2026-01-01T08:00:00Z" });
    expect((await mine.read()).waiting).toHaveLength(30);
  });
});
