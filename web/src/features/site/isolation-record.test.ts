import { describe, expect, it } from "vitest";
import type { SiteEntry } from "../../sync/site/state";
import { laidOver } from "./isolation-record";

let count = 0;
const entry = (step: string, data: Record<string, unknown> = {}): SiteEntry => ({
  id: `e${++count}`,
  kind: "isolation",
  subject: null,
  data: { record: "r", step, ...data },
  at: `2026-03-01T08:00:${String(count).padStart(2, "0")}Z`,
});
const begin = entry("begin", {
  title: "A1 Shower",
  kind: "circuit",
  id: "c",
  steps: ["tester:before|words|which|Prove", "lock:A1|words*local|number|Lock", "dead:L–N|dead||Prove dead L–N"],
  release: ["energised|words|what|On again"],
});
const state = (...more: SiteEntry[]) => {
  const [record] = laidOver([], [begin, ...more], "Ann");
  return [record?.state, record?.next];
};

describe("a record of isolation without a signal", () => {
  it("begins here, asks for one step after the other, and is dead only with all of them", () => {
    const tester = entry("tester:before", { value: "T1" });
    const lock = entry("lock:A1", { local: "no lock fits" });
    const dead = entry("dead:L–N", { value: "dead" });
    expect(state()).toEqual(["open", "tester:before"]);
    expect(state(tester)).toEqual(["open", "lock:A1"]);
    expect(state(tester, dead)).toEqual(["open", "lock:A1"]);
    expect(state(tester, lock)).toEqual(["open", "dead:L–N"]);
    expect(state(tester, lock, dead)).toEqual(["dead", "energised"]);
    expect(state(tester, lock, dead, entry("energised", { value: "all" }))).toEqual(["released", ""]);
  });

  it("stops at a pair that is live, whatever else was done", () => {
    expect(state(entry("tester:before", { value: "T1" }), entry("dead:L–N", { value: "live" }))).toEqual(["live", ""]);
    expect(state(entry("given_up", { value: "wrong way" }))).toEqual(["given_up", ""]);
  });

  it("keeps a text with bars in it, and what the server knows counts first", () => {
    const [record] = laidOver(
      [],
      [entry("begin", { steps: ["told|words|who|Tell A|B"], release: ["x|nothing||y"] })],
      "Ann",
    );
    expect(record?.steps[0]?.step.text).toBe("Tell A|B");
    const known = laidOver([], [begin], "Ann").map((r) => ({
      ...r,
      steps: r.steps.map((d) => ({ ...d, by: "Bob", at: "t", value: "v" })),
    }));
    expect(laidOver(known, [entry("tester:before", { value: "mine" })], "Ann")[0]?.steps[0]?.by).toBe("Bob");
  });
});
