import "fake-indexeddb/auto";
import { afterEach, describe, expect, it, vi } from "vitest";
import { ApiError, Away } from "../../api/client";
import type { Change, JobState } from "../../api/types";
import type { Remote } from "../engine";
import { Proposal, proposing } from "../proposal";
import { closeShelf, type ProposalShelf, type ProposedStep } from "../shelf";
import type { Item, Parked } from "../state";
import { storage } from "./storage";

const note = (text: string): Change =>
  ({ op: "set", kind: "job", id: "x", fields: { note: text } }) as unknown as Change;
let count = 0;
const item = (act: Item["act"]): Item => ({ id: `i${count++}`, seq: 1, base: 3, act, tries: 0 });
const typed = (...texts: string[]) => item({ is: "changes", changes: texts.map(note) });
const job = (changes: readonly Change[]) => ({ version: 3, cells: 0, changes }) as unknown as JobState;

function server() {
  const attempt = vi.fn(async (_job: string, changes: readonly Change[]) => job(changes));
  const look = vi.fn(async () => job([]) as JobState | "unchanged");
  const send = vi.fn();
  return { attempt, look, send, who: async () => "1" } as unknown as Remote & {
    attempt: typeof attempt;
    look: typeof look;
    send: typeof send;
  };
}
const signal = new AbortController().signal;

/** What lies in a browser, for however many tabs. */
function box(): ProposalShelf {
  let steps: readonly ProposedStep[] = [];
  return {
    read: async () => steps,
    change: async (how) => {
      steps = how(steps);
      return steps;
    },
  };
}
const opened = async (shelf: ProposalShelf = box()) => {
  const proposal = new Proposal("1", "j", shelf, null);
  await proposal.ready;
  return proposal;
};
const refused = (change: number | null, message: string) =>
  new ApiError(422, {
    detail: message,
    errors: [{ field: "note", given: "", allowed: "", message, change, kind: null, id: null }],
  });

describe("somebody who proposes", () => {
  afterEach(closeShelf);

  it("saves nothing: every step is laid over all before it, and kept in the browser by person and job", async () => {
    const real = server();
    const proposal = new Proposal("1", "j");
    const remote = proposing(real, proposal);
    await remote.send("j", typed("one"), 3, [], null, signal);
    const answer = await remote.send("j", typed("two"), 3, [], null, signal);
    expect(real.send).not.toHaveBeenCalled();
    expect(real.attempt.mock.lastCall?.[1]).toEqual([note("one"), note("two")]);
    expect(answer).toMatchObject({ is: "landed", state: { landed: 3 } });
    await closeShelf();
    for (const [person, job, kept] of [
      ["1", "j", 2],
      ["2", "j", 0],
      ["1", "k", 0],
    ] as const) {
      const other = new Proposal(person, job);
      await other.ready;
      expect(other.changes()).toHaveLength(kept);
      other.close();
    }
    await proposal.clear();
    proposal.close();
  });

  it("is one for two tabs: neither writes over the other's step, and each is told", async () => {
    const [one, two] = [new Proposal("1", "t"), new Proposal("1", "t")];
    await Promise.all([one.ready, two.ready]);
    const told = vi.fn();
    two.onElsewhere = told;
    await Promise.all([one.add("a", [note("one")]), two.add("b", [note("two")])]);
    await vi.waitFor(() => expect(told).toHaveBeenCalled());
    await vi.waitFor(() => expect(one.changes()).toHaveLength(2));
    expect(two.changes()).toEqual(one.changes());
    await one.turn(false);
    await vi.waitFor(() => expect(two.changes()).toHaveLength(1));
    await two.clear();
    for (const each of [one, two]) each.close();
  });

  it("takes its last step back and does it again, down to the job as it is", async () => {
    const real = server();
    const proposal = await opened();
    const remote = proposing(real, proposal);
    await remote.send("j", typed("one"), 3, [], null, signal);
    await remote.send("j", item({ is: "undo", again: false }), 3, [], null, signal);
    expect(proposal.changes()).toEqual([]);
    expect(real.look).toHaveBeenCalledOnce();
    await remote.send("j", item({ is: "undo", again: true }), 3, [], null, signal);
    expect(proposal.changes()).toEqual([note("one")]);
    await remote.send("j", item({ is: "undo", again: false }), 3, [], null, signal);
    const nothing = remote.send("j", item({ is: "undo", again: false }), 3, [], null, signal);
    await expect(nothing).rejects.toMatchObject({ refusal: { errors: [{ field: "undo" }] } });
  });

  it("points a refusal at the change of the step, and keeps what was there", async () => {
    const real = server();
    const proposal = await opened();
    const remote = proposing(real, proposal);
    await remote.send("j", typed("one", "two"), 3, [], null, signal);
    real.attempt.mockRejectedValueOnce(refused(3, "no"));
    const bad = remote.send("j", typed("good", "bad"), 3, [], null, signal);
    await expect(bad).rejects.toMatchObject({ refusal: { errors: [{ change: 1 }] } });
    expect(proposal.changes()).toHaveLength(2);
  });

  it("puts the step that the job no longer takes aside, alone, with why; the others are still laid over it", async () => {
    const real = server();
    const proposal = await opened();
    const aside: Parked[] = [];
    proposal.onAside = (parked) => aside.push(parked);
    await proposal.add("a", [note("one")]);
    await proposal.add("b", [note("gone"), note("with it")]);
    await proposal.add("c", [note("three")]);
    const remote = proposing(real, proposal);
    real.attempt.mockRejectedValueOnce(refused(2, "the circuit was removed"));
    expect(await remote.look("j", null, null, signal)).toMatchObject({ changes: [note("one"), note("three")] });
    expect(aside).toEqual([
      {
        item: expect.objectContaining({ id: "b", act: { is: "changes", changes: [note("gone"), note("with it")] } }),
        why: "the circuit was removed",
        error: null,
      },
    ]);
  });

  it("stays whole where no answer came, or where somebody else was quicker", async () => {
    const real = server();
    const proposal = await opened();
    await proposal.add("a", [note("one")]);
    const remote = proposing(real, proposal);
    for (const trouble of [new Away("away"), new ApiError(409, { detail: "newer", errors: [] })]) {
      real.attempt.mockRejectedValueOnce(trouble);
      expect(await remote.look("j", null, null, signal)).toMatchObject({ changes: [] });
      expect(proposal.changes()).toEqual([note("one")]);
    }
    real.look.mockResolvedValueOnce("unchanged");
    expect(await remote.look("j", null, "tag", signal)).toBe("unchanged");
  });

  it("holds as many changes as go in at once, and never goes back to a version", async () => {
    const remote = proposing(server(), await opened());
    await remote.send("j", typed(...Array.from({ length: 200 }, (_, i) => `${i}`)), 3, [], null, signal);
    await expect(remote.send("j", typed("more"), 3, [], null, signal)).rejects.toMatchObject({ status: 422 });
    await expect(remote.send("j", item({ is: "back", to: 1 }), 3, [], null, signal)).rejects.toMatchObject({
      status: 422,
    });
  });

  it("takes over what an earlier page kept, once, and reads a damaged one as none", async () => {
    const [old, shelf, key] = [storage(), box(), "mellow-span/proposal/1/j"];
    old.setItem(key, JSON.stringify([[note("one")], [note("two")]]));
    const first = new Proposal("1", "j", shelf, old);
    await first.ready;
    expect(first.changes()).toEqual([note("one"), note("two")]);
    expect(old.getItem(key)).toBeNull();
    for (const damaged of ["{", "{}", "[1]"]) {
      old.setItem(key, damaged);
      const next = new Proposal("1", "j", shelf, old);
      await next.ready;
      expect(next.changes()).toHaveLength(2);
    }
  });

  it("holds for this page where the browser keeps nothing, and says so", async () => {
    const denied = {
      read: () => Promise.reject(new Error("denied")),
      change: () => Promise.reject(new Error("denied")),
    };
    const proposal = await opened(denied);
    await proposal.add("a", [note("one")]);
    await proposal.add("b", [note("two")]);
    expect(proposal.get()).toMatchObject({ keeps: false });
    expect(proposal.changes()).toEqual([note("one"), note("two")]);
  });
});
