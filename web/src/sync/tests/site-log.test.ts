import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";
import { ApiError, Away } from "../../api/client";
import { type NewEntry, type SiteEntry, SiteLog } from "../site-log";
import { storage } from "./storage";

const tick = (subject: string): NewEntry => ({ kind: "pulled", subject, data: { done: true } });
const settle = () => vi.advanceTimersByTimeAsync(0);
const away = vi.fn(async () => {
  throw new Away("away");
});

describe("what is written down on site", () => {
  beforeEach(() => void vi.useFakeTimers());
  afterEach(() => void vi.useRealTimers());

  it("is sent in order, and forgotten once it is answered", async () => {
    const send = vi.fn(async (_: SiteEntry) => {});
    const box = storage();
    const log = new SiteLog("1", "j", send, () => {}, box);
    log.add(tick("a"));
    log.add(tick("b"));
    await settle();
    expect(send.mock.calls.map(([e]) => e.subject)).toEqual(["a", "b"]);
    expect(box.kept.size).toBe(0);
  });

  it("stays in the browser while the server is away, over a reload, and goes out when it is back", async () => {
    const box = storage();
    const before = new SiteLog("1", "j", away, () => {}, box);
    const first = before.add(tick("a"));
    await settle();
    before.close();
    await vi.advanceTimersByTimeAsync(10);
    let up = false;
    const sent: SiteEntry[] = [];
    const log = new SiteLog(
      "1",
      "j",
      async (entry) => {
        if (!up) throw new Away("away");
        sent.push(entry);
      },
      () => {},
      box,
    );
    log.add(tick("b"));
    await vi.advanceTimersByTimeAsync(7000);
    expect(log.get()).toHaveLength(2);
    up = true;
    await vi.advanceTimersByTimeAsync(3000);
    expect(sent.map((e) => e.subject)).toEqual(["a", "b"]);
    expect(sent[0]?.id).toBe(first);
    expect(new SiteLog("2", "j", away, () => {}, box).get()).toEqual([]);
  });

  it("of two windows neither writes over the other's", async () => {
    const box = storage();
    const one = new SiteLog("1", "j", away, () => {}, box);
    const two = new SiteLog("1", "j", away, () => {}, box);
    one.add(tick("a"));
    await vi.advanceTimersByTimeAsync(10);
    two.add(tick("b"));
    await settle();
    expect(new SiteLog("1", "j", away, () => {}, box).get().map((e) => e.subject)).toEqual(["a", "b"]);
  });

  it("is let go with the reason where it is refused, and what is behind it goes on", async () => {
    const why = vi.fn();
    const send = vi.fn(async (entry: SiteEntry) => {
      if (entry.subject === "gone") throw new ApiError(422, { message: "no such circuit", errors: [] });
    });
    const log = new SiteLog("1", "j", send, why, storage());
    log.add(tick("gone"));
    log.add(tick("b"));
    await settle();
    expect(why).toHaveBeenCalledExactlyOnceWith("no such circuit");
    expect(log.get()).toEqual([]);
    expect(send).toHaveBeenCalledTimes(2);
  });

  it("waits for a sign-in, and leaves out what is damaged in the store", async () => {
    const box = storage();
    box.setItem("mellow-span/site/1/j/x", "{");
    const send = vi.fn(async () => {
      throw new ApiError(401, { message: "signed out", errors: [] });
    });
    const log = new SiteLog("1", "j", send, () => {}, box);
    expect(log.get()).toEqual([]);
    log.add(tick("a"));
    await settle();
    expect(log.get()).toHaveLength(1);
  });
});
