import "fake-indexeddb/auto";
import { beforeEach, describe, expect, it, vi } from "vitest";
import { forgetBut, keep, recall, thin } from "./kept";

const job = (n: number) => `00000000-0000-0000-0000-${String(n).padStart(12, "0")}`;

describe("answers kept on the device", () => {
  beforeEach(() => forgetBut(""));

  it("are given back to the person they were given to, and to nobody else", async () => {
    await keep("ann", `${job(1)}/pulls`, { lines: 3 });
    expect(await recall("ann", `${job(1)}/pulls`)).toEqual({ lines: 3 });
    expect(await recall("bea", `${job(1)}/pulls`)).toBeUndefined();
    expect(await recall("ann", `${job(2)}/pulls`)).toBeUndefined();
  });

  it("are the last ones", async () => {
    await keep("ann", "x", 1);
    await keep("ann", "x", 2);
    expect(await recall("ann", "x")).toBe(2);
  });

  it("go with whoever signs out; those of others go when somebody else is there", async () => {
    await keep("", "session", "ann");
    await keep("ann", "x", 1);
    await keep("bea", "x", 2);
    await forgetBut("bea");
    expect([await recall("ann", "x"), await recall("bea", "x"), await recall("", "session")]).toEqual([
      undefined,
      2,
      "ann",
    ]);
    await forgetBut("");
    expect([await recall("bea", "x"), await recall("", "session")]).toEqual([undefined, undefined]);
  });

  it("of too many jobs the one looked at longest ago goes, what is of no job stays", async () => {
    const clock = vi.spyOn(Date, "now");
    for (let n = 0; n < 14; n++) {
      clock.mockReturnValue(1000 + n);
      await keep("ann", `${job(n)}/pulls`, n);
      await keep("ann", `${job(n)}/ends`, n);
    }
    await keep("ann", "rules/x", "r");
    await thin("ann");
    expect(await recall("ann", `${job(0)}/pulls`)).toBeUndefined();
    expect(await recall("ann", `${job(1)}/ends`)).toBeUndefined();
    expect(await recall("ann", `${job(2)}/pulls`)).toBe(2);
    expect(await recall("ann", "rules/x")).toBe("r");
  });
});
