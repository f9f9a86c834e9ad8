// @vitest-environment jsdom
import { QueryClient, QueryClientProvider } from "@tanstack/react-query";
import { cleanup, render, screen } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { MemoryRouter } from "react-router";
import { afterEach, describe, expect, it, vi } from "vitest";
import * as client from "../../api/client";
import { ApiError } from "../../api/wire";
import { PacksPage } from "./packs-page";

vi.mock("../../api/client", async (original) => ({
  ...(await original<object>()),
  listPacks: vi.fn(),
  bringPack: vi.fn(),
  listRechecks: vi.fn(),
}));

const PACK: client.PackLine = {
  mark: "0123456789ab",
  book: "bs7671+0123456789ab",
  name: "amps",
  title: "Amps",
  version: "1",
  over: "bs7671",
  over_title: "The first book",
  source: "a sheet",
  checked: "",
  tables: ["4D5"],
  not_asked: ["ring"],
  silent: [],
  by: "A. Person",
  at: "2026-01-05T10:00:00Z",
  jobs: 2,
  away: false,
  departure: null,
  confirmed: "",
};
const turn = (clause: string, part: string) => ({
  job: "j",
  name: "Row",
  part,
  check: "Capacity",
  clause,
  before: "meets",
  after: "short",
  text: "Iz 30 A is under In 32 A",
});
const show = (packs: client.PackLine[], rechecks: client.RecheckLine[] = [], designs = true) => {
  vi.mocked(client.listPacks).mockResolvedValue(packs);
  vi.mocked(client.listRechecks).mockResolvedValue(rechecks);
  return render(
    <QueryClientProvider client={new QueryClient({ defaultOptions: { queries: { retry: false } } })}>
      <MemoryRouter>
        <PacksPage supervises designs={designs} />
      </MemoryRouter>
    </QueryClientProvider>,
  );
};
const give = (...files: File[]) =>
  userEvent.upload(screen.getByLabelText("check a pack: a zip, or its files") as HTMLInputElement, files);

describe("your own tables", () => {
  afterEach(cleanup);

  it("says of a pack what it is over, that nobody checked it, what it leaves out, and who uses it", async () => {
    show([PACK]);
    const one = (await screen.findByText("Amps")).closest("li");
    expect(one?.textContent).toContain("Over The first book, from a sheet");
    expect(one?.textContent).toContain("Its numbers are not stated to be checked †");
    expect(one?.textContent).toContain("Not required by it: ring");
    expect(one?.textContent).toContain("2 jobs use it");
  });

  it("keeps nothing before it was looked at and taken in", async () => {
    vi.mocked(client.bringPack).mockResolvedValue(PACK);
    show([]);
    await give(new File(["id = 1"], "pack.toml"), new File(["a"], "b.csv"));
    await screen.findByText(/No errors found in/);
    expect(vi.mocked(client.bringPack).mock.lastCall?.[0]).toEqual({
      zip: "",
      files: [
        { name: "pack.toml", text: "id = 1" },
        { name: "b.csv", text: "a" },
      ],
      look: true,
      words: "",
    });
    await userEvent.click(screen.getByRole("button", { name: "add it" }));
    expect(vi.mocked(client.bringPack).mock.lastCall?.[0]).toMatchObject({ look: false });
  });

  it("sends a zip as it is", async () => {
    vi.mocked(client.bringPack).mockResolvedValue(PACK);
    show([]);
    await give(new File([new Uint8Array([80, 75, 3, 4])], "pack.zip"));
    await screen.findByText(/No errors found in/);
    expect(vi.mocked(client.bringPack).mock.lastCall?.[0]).toMatchObject({ zip: "UEsDBA==", files: [] });
  });

  it("lists everything that is wrong by its place", async () => {
    const errors = ["amps.csv, line 2, C", "amps.csv, line 3, C"].map((field) => ({
      field,
      given: "x",
      allowed: "a number",
      message: "",
      change: null,
      kind: null,
      id: null,
    }));
    vi.mocked(client.bringPack).mockRejectedValue(new ApiError(422, { detail: "2 things are wrong", errors }));
    show([]);
    await give(new File(["x"], "pack.toml"));
    expect(await screen.findByText("amps.csv, line 3, C")).toBeTruthy();
    expect(screen.queryByRole("button", { name: "add it" })).toBeNull();
  });

  it("lists what turned by clause, in the order of clauses, and what is still worked on", async () => {
    const of = (id: number, share: number, turned: client.RecheckLine["turned"]): client.RecheckLine => ({
      id,
      cause: `cause ${id}`,
      by: "",
      at: "2026-01-05T10:00:00Z",
      share,
      moved: [],
      jobs: 3,
      turned,
    });
    show([], [of(1, 1, [turn("525.1", "Lights"), turn("433.1.1", "Cooker")]), of(2, 0.5, []), of(3, 1, [])]);
    await screen.findByText("cause 1");
    expect(screen.getAllByRole("heading", { level: 3 }).map((h) => h.textContent)).toEqual(["433.1.1", "525.1"]);
    expect(screen.getByText(/2 changed, 3 jobs checked/)).toBeTruthy();
    expect(screen.getByText("working, 50 %")).toBeTruthy();
    expect(screen.getByText(/none changed/)).toBeTruthy();
  });

  it("lets an apprentice look and bring nothing in", async () => {
    show([PACK], [], false);
    await screen.findByText("Amps");
    expect(screen.queryByLabelText(/check a pack: a zip, or its files/)).toBeNull();
    expect(screen.queryByRole("button", { name: "put away" })).toBeNull();
  });
});
