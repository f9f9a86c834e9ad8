import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";
import * as client from "../api/client";
import { ApiError, Away } from "../api/client";
import defaults from "../api/defaults.gen.json";
import type { Change, JobState } from "../api/types";
import { applied } from "./changes";
import { JobStore } from "./job-store";

vi.mock("../api/client", async (original) => ({
  ...(await original<typeof client>()),
  openJob: vi.fn(),
  sendEdit: vi.fn(),
  who: vi.fn(),
}));

const state = (version: number, name = "House"): JobState => ({
  id: "j",
  name,
  note: "",
  version,
  edition: "",
  summaries: [],
  attention: [],
  detail: null,
  installation: {
    ruleset: "bs7671",
    supply: {} as JobState["installation"]["supply"],
    boards: [{ ...defaults.board, id: "b", name: "Board" } as JobState["installation"]["boards"][0]],
    circuits: [],
    bundles: [],
    dismissals: [],
  },
});
const rename = (name: string): Change => ({ op: "set", kind: "job", id: "j", fields: { name } });
const memory = () => {
  const kept = new Map<string, string>();
  return {
    kept,
    getItem: (k: string) => kept.get(k) ?? null,
    setItem: (k: string, v: string) => void kept.set(k, v),
    removeItem: (k: string) => void kept.delete(k),
  };
};
const settle = () => vi.advanceTimersByTimeAsync(0);
const sent = () => vi.mocked(client.sendEdit).mock.calls.map(([, edit]) => edit);

async function opened(storage = memory()) {
  vi.mocked(client.openJob).mockResolvedValue(state(1));
  const store = new JobStore("j", storage);
  await store.load();
  return { store, storage };
}

describe("the outbox", () => {
  beforeEach(() => {
    vi.useFakeTimers();
    vi.clearAllMocks();
  });
  afterEach(() => vi.useRealTimers());

  it("shows an edit at once and writes it down before it is answered", async () => {
    const { store, storage } = await opened();
    vi.mocked(client.sendEdit).mockReturnValue(new Promise(() => {}));
    store.edit([rename("Barn")]);
    expect(store.get()).toMatchObject({ name: "Barn", unsent: 1, phase: { is: "saving" } });
    expect([...storage.kept.values()][0]).toContain("Barn");
  });

  it("keeps what is typed while the server is away, sends it under the same identity, and forgets it once answered", async () => {
    const { store, storage } = await opened();
    vi.mocked(client.sendEdit).mockRejectedValueOnce(new Away("gone"));
    store.edit([rename("Barn")]);
    await settle();
    expect(store.get().phase.is).toBe("away");
    vi.mocked(client.sendEdit).mockResolvedValue({ stale: false, state: state(2, "Barn") });
    await vi.advanceTimersByTimeAsync(2100);
    expect(sent()[0]?.edit_id).toBe(sent()[1]?.edit_id);
    expect(store.get()).toMatchObject({ name: "Barn", unsent: 0, phase: { is: "saved" } });
    expect(storage.kept.size).toBe(0);
  });

  it("picks up after a reload what an earlier page could not send", async () => {
    const storage = memory();
    storage.setItem("mellow-span/unsent/j", JSON.stringify([{ edit_id: "e1", version: 1, changes: [rename("Barn")] }]));
    vi.mocked(client.sendEdit).mockResolvedValue({ stale: false, state: state(2, "Barn") });
    const { store } = await opened(storage);
    await settle();
    expect(sent()[0]).toMatchObject({ edit_id: "e1", version: 1 });
    expect(store.get().phase.is).toBe("saved");
  });

  it("lays a stale edit over the newer state only when told to", async () => {
    const { store } = await opened();
    vi.mocked(client.sendEdit).mockResolvedValueOnce({ stale: true, state: state(5, "Theirs") });
    store.edit([rename("Mine")]);
    await settle();
    expect(store.get()).toMatchObject({ phase: { is: "stale" }, unsent: 1 });
    vi.mocked(client.sendEdit).mockResolvedValue({ stale: false, state: state(6, "Mine") });
    store.keepMine();
    await settle();
    expect(sent().at(-1)?.version).toBe(5);
    expect(sent().at(-1)?.edit_id).not.toBe(sent()[0]?.edit_id);
    expect(store.get()).toMatchObject({ name: "Mine", phase: { is: "saved" } });
  });

  it("takes a refused change out, says where it was, and still sends the others", async () => {
    const { store } = await opened();
    const error = { field: "name", given: "", allowed: "text", message: "no", change: 1, kind: "job", id: "j" };
    vi.mocked(client.sendEdit).mockRejectedValueOnce(new ApiError(422, { message: "no", errors: [error] }));
    vi.mocked(client.sendEdit).mockResolvedValue({ stale: false, state: state(2, "Good") });
    store.edit([rename("Good"), rename("")]);
    await settle();
    expect(sent().at(-1)?.changes).toEqual([rename("Good")]);
    expect(store.get()).toMatchObject({ name: "Good", refused: { field: "name" }, phase: { is: "saved" } });
  });

  it("waits for a sign-in when the session is gone", async () => {
    const { store } = await opened();
    vi.mocked(client.who).mockResolvedValue({ signed_in: false, name: "", firm: "", csrf: "" });
    vi.mocked(client.sendEdit).mockRejectedValueOnce(new ApiError(403, { message: "no", errors: [] }));
    store.edit([rename("Barn")]);
    await settle();
    expect(store.get()).toMatchObject({ phase: { is: "signed-out" }, unsent: 1 });
  });
});

describe("changes laid over an installation", () => {
  const at = (changes: Change[]) => changes.reduce(applied, state(1).installation);
  const add = (id: string, index?: number): Change => ({
    op: "add",
    kind: "circuit",
    id,
    parent: "b",
    index: index ?? null,
    fields: { name: id },
  });
  const span = (id: string, index?: number): Change => ({
    op: "add",
    kind: "span",
    id,
    parent: "c",
    index: index ?? null,
    fields: {},
  });

  it("adds, sets, moves and removes as the server will", () => {
    const found = at([
      add("c"),
      add("d", 0),
      { op: "set", kind: "circuit", id: "c", fields: { device: { rating: 32 }, cable: { csa: 4 } } },
      span("s1"),
      span("s2"),
      span("s3", 0),
      { op: "move", kind: "span", id: "s3", index: 2, fields: {} },
      { op: "remove", kind: "span", id: "s1", fields: {} },
    ]);
    expect(found.circuits.map((c) => c.id)).toEqual(["d", "c"]);
    const c = found.circuits[1];
    expect(c?.device).toMatchObject({ rating: 32, curve: "B" });
    expect(c?.run.cable).toMatchObject({ csa: 4, family: null });
    expect(c?.run.spans.map((s) => s.id)).toEqual(["s2", "s3"]);
  });
});

it("shows a bundle, and takes it off its spans again, before any answer comes", () => {
  const inst = state(1).installation;
  const add = (kind: "circuit" | "span" | "bundle", id: string, rest: Partial<Change> = {}): Change => ({
    op: "add",
    kind,
    id,
    fields: {},
    ...rest,
  });
  const made = [
    add("circuit", "c", { parent: "b" }),
    add("bundle", "k", { fields: { name: "riser" } }),
    add("span", "s", { parent: "c", fields: { bundle: "k", length: 3 } }),
  ].reduce(applied, inst);
  expect(made.bundles).toMatchObject([{ id: "k", name: "riser", kind: "bundle", laid: "bunched" }]);
  expect(made.circuits[0]?.run.spans[0]).toMatchObject({ bundle: "k", length: 3, soil: 2.5 });
  const gone = applied(made, { op: "remove", kind: "bundle", id: "k", fields: {} });
  expect(gone.bundles).toEqual([]);
  expect(gone.circuits[0]?.run.spans[0]?.bundle).toBeNull();
});
