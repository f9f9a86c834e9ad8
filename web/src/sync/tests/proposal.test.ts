import { describe, expect, it, vi } from "vitest";
import { ApiError } from "../../api/client";
import type { Change, JobState } from "../../api/types";
import type { Remote } from "../engine";
import { Proposal, proposing } from "../proposal";
import type { Item } from "../state";
import { storage } from "./storage";

const note = (text: string): Change =>
  ({ op: "set", kind: "job", id: "x", fields: { note: text } }) as unknown as Change;
const item = (act: Item["act"]): Item => ({ id: "i", seq: 1, base: 3, act, tries: 0 });
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

describe("somebody who proposes", () => {
  it("saves nothing: every step is laid over all before it, and kept in the browser", async () => {
    const [real, box] = [server(), storage()];
    const proposal = new Proposal("1", "j", box);
    const remote = proposing(real, proposal);
    await remote.send("j", typed("one"), 3, [], null, signal);
    const answer = await remote.send("j", typed("two"), 3, [], null, signal);
    expect(real.send).not.toHaveBeenCalled();
    expect(real.attempt.mock.lastCall?.[1]).toEqual([note("one"), note("two")]);
    expect(answer).toMatchObject({ is: "landed", state: { landed: 3 } });
    expect(new Proposal("1", "j", box).changes()).toEqual([note("one"), note("two")]);
    expect(new Proposal("2", "j", box).changes()).toEqual([]);
  });

  it("takes its last step back and does it again, down to the job as it is", async () => {
    const real = server();
    const proposal = new Proposal("1", "j", storage());
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
    const proposal = new Proposal("1", "j", storage());
    const remote = proposing(real, proposal);
    await remote.send("j", typed("one", "two"), 3, [], null, signal);
    real.attempt.mockRejectedValueOnce(
      new ApiError(422, {
        message: "no",
        errors: [{ field: "note", given: "", allowed: "", message: "", change: 3, kind: null, id: null }],
      }),
    );
    const refused = remote.send("j", typed("good", "bad"), 3, [], null, signal);
    await expect(refused).rejects.toMatchObject({ refusal: { errors: [{ change: 1 }] } });
    expect(proposal.changes()).toHaveLength(2);
  });

  it("is shown over what others changed meanwhile, and as the job is where it no longer fits", async () => {
    const real = server();
    const proposal = new Proposal("1", "j", storage());
    proposal.add([note("one")]);
    const remote = proposing(real, proposal);
    expect(await remote.look("j", null, null, signal)).toMatchObject({ changes: [note("one")] });
    real.attempt.mockRejectedValueOnce(new ApiError(422, { message: "gone", errors: [] }));
    expect(await remote.look("j", null, null, signal)).toMatchObject({ changes: [] });
    real.look.mockResolvedValueOnce("unchanged");
    expect(await remote.look("j", null, "tag", signal)).toBe("unchanged");
  });

  it("holds as many changes as go in at once, and never goes back to a version", async () => {
    const remote = proposing(server(), new Proposal("1", "j", storage()));
    await remote.send("j", typed(...Array.from({ length: 200 }, (_, i) => `${i}`)), 3, [], null, signal);
    await expect(remote.send("j", typed("more"), 3, [], null, signal)).rejects.toMatchObject({ status: 422 });
    await expect(remote.send("j", item({ is: "back", to: 1 }), 3, [], null, signal)).rejects.toMatchObject({
      status: 422,
    });
  });

  it("reads a damaged proposal as none", () => {
    const box = storage();
    box.setItem("mellow-span/proposal/1/j", "{");
    expect(new Proposal("1", "j", box).get()).toEqual([]);
  });
});
