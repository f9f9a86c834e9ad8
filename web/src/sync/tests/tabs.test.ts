import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";
import { tabsOf } from "../tabs";

/** Locks as a browser has them: one holder of a name, the others in a row; who steals it comes first. */
class Locks {
  private held: { lose: (e: unknown) => void } | null = null;
  private row: (() => void)[] = [];
  request(_: string, how: { steal?: boolean; signal?: AbortSignal }, act: () => Promise<void>) {
    return new Promise<void>((done, lose) => {
      const take = () => {
        const mine = { lose };
        this.held = mine;
        void act().then(() => {
          if (this.held !== mine) return;
          this.held = null;
          done();
          this.row.shift()?.();
        });
      };
      if (how.steal) {
        this.held?.lose(new DOMException("stolen", "AbortError"));
        return take();
      }
      how.signal?.addEventListener("abort", () => {
        this.row = this.row.filter((t) => t !== take);
        lose(new DOMException("left", "AbortError"));
      });
      if (this.held) this.row.push(take);
      else take();
    });
  }
}

let channels: { asleep: boolean; name: string; hear: ((e: { data: unknown }) => void)[] }[];

beforeEach(() => {
  vi.useFakeTimers();
  channels = [];
  vi.stubGlobal("navigator", { locks: new Locks() });
  vi.stubGlobal(
    "BroadcastChannel",
    class {
      me;
      constructor(name: string) {
        this.me = { asleep: false, name, hear: [] as ((e: { data: unknown }) => void)[] };
        channels.push(this.me);
      }
      addEventListener(_: string, then: (e: { data: unknown }) => void) {
        this.me.hear.push(then);
      }
      postMessage(data: unknown) {
        for (const c of channels)
          if (c !== this.me && c.name === this.me.name && !c.asleep)
            queueMicrotask(() => {
              for (const then of c.hear) then({ data });
            });
      }
      close() {
        channels = channels.filter((c) => c !== this.me);
      }
    },
  );
});
afterEach(() => {
  vi.unstubAllGlobals();
  vi.useRealTimers();
});

function tab() {
  const me = () => channel;
  const [tabs, told] = [tabsOf<string>("work", () => !me().asleep), [] as string[]];
  const channel = channels.at(-1) as (typeof channels)[number];
  const events: string[] = [];
  tabs.hear((note) => told.push(note));
  tabs.elect(
    () => events.push("elected"),
    () => events.push("lost"),
  );
  return { tabs, told, events, channel };
}
const settle = (ms = 0) => vi.advanceTimersByTimeAsync(ms);

describe("the tabs of one browser", () => {
  it("have one that sends; the next takes over when it closes", async () => {
    const [a, b] = [tab(), tab()];
    await settle();
    expect([a.events, b.events]).toEqual([["elected"], []]);
    a.tabs.close();
    await settle();
    expect(b.events).toEqual(["elected"]);
  });

  it("leave it to one that answers, however long that is, and hear nothing of the question", async () => {
    const [a, b] = [tab(), tab()];
    await settle(120_000);
    expect([a.events, b.events]).toEqual([["elected"], []]);
    expect([a.told, b.told]).toEqual([[], []]);
    a.tabs.tell("note");
    await settle();
    expect(b.told).toEqual(["note"]);
  });

  it("take over from one that a phone has put to sleep; that one sends no more when it wakes", async () => {
    const [a, b] = [tab(), tab()];
    await settle();
    a.channel.asleep = true;
    await settle(30_000);
    expect([a.events, b.events]).toEqual([["elected", "lost"], ["elected"]]);
    a.channel.asleep = false;
    await settle(60_000);
    expect([a.events, b.events]).toEqual([["elected", "lost"], ["elected"]]);
    b.tabs.close();
    await settle();
    expect(a.events).toEqual(["elected", "lost", "elected"]);
  });

  it("do not take over from behind: a page nobody sees asks nobody", async () => {
    const [a, b] = [tab(), tab()];
    a.channel.asleep = true;
    b.channel.asleep = true;
    await settle(60_000);
    expect(b.events).toEqual([]);
  });
});
