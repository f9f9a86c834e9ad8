import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";
import { ApiError, Away } from "../../api/client";
import { type Tick, Ticks } from "../ticks";
import { storage } from "./storage";

const tick = (circuit: string): Tick => ({ circuit, done: true, at: "2026-03-01T08:00:00Z" });
const settle = () => vi.advanceTimersByTimeAsync(0);

describe("what is ticked off on site", () => {
  beforeEach(() => void vi.useFakeTimers());
  afterEach(() => void vi.useRealTimers());

  it("is sent in order, and forgotten once it is answered", async () => {
    const send = vi.fn(async (_: Tick) => {});
    const box = storage();
    const ticks = new Ticks("1", "j", send, () => {}, box);
    ticks.add(tick("a"));
    ticks.add(tick("b"));
    await settle();
    expect(send.mock.calls.map(([t]) => t.circuit)).toEqual(["a", "b"]);
    expect(box.kept.size).toBe(0);
  });

  it("stays in the browser while the server is away, over a reload, and goes out when it is back", async () => {
    const box = storage();
    const away = vi.fn(async () => {
      throw new Away("away");
    });
    const before = new Ticks("1", "j", away, () => {}, box);
    before.add(tick("a"));
    await settle();
    before.close();
    let up = false;
    const sent: string[] = [];
    const ticks = new Ticks(
      "1",
      "j",
      async (t) => {
        if (!up) throw new Away("away");
        sent.push(t.circuit);
      },
      () => {},
      box,
    );
    ticks.add(tick("b"));
    await vi.advanceTimersByTimeAsync(7000);
    expect(ticks.get()).toHaveLength(2);
    up = true;
    await vi.advanceTimersByTimeAsync(3000);
    expect(sent).toEqual(["a", "b"]);
    expect(new Ticks("2", "j", away, () => {}, box).get()).toEqual([]);
  });

  it("is let go with the reason where it is refused, and what is behind it goes on", async () => {
    const why = vi.fn();
    const send = vi.fn(async (t: Tick) => {
      if (t.circuit === "gone") throw new ApiError(422, { message: "no such circuit", errors: [] });
    });
    const ticks = new Ticks("1", "j", send, why, storage());
    ticks.add(tick("gone"));
    ticks.add(tick("b"));
    await settle();
    expect(why).toHaveBeenCalledExactlyOnceWith("no such circuit");
    expect(ticks.get()).toEqual([]);
    expect(send).toHaveBeenCalledTimes(2);
  });

  it("waits for a sign-in, and reads a damaged store as empty", async () => {
    const box = storage();
    box.setItem("mellow-span/ticks/1/j", "{");
    const send = vi.fn(async () => {
      throw new ApiError(401, { message: "signed out", errors: [] });
    });
    const ticks = new Ticks("1", "j", send, () => {}, box);
    expect(ticks.get()).toEqual([]);
    ticks.add(tick("a"));
    await settle();
    expect(ticks.get()).toHaveLength(1);
  });
});
