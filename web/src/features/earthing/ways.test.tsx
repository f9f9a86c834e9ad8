// @vitest-environment jsdom
import { QueryClient, QueryClientProvider } from "@tanstack/react-query";
import { cleanup, render, screen } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";
import * as client from "../../api/client";
import type { Board, Circuit, EarthingWay } from "../../api/types";
import { Ways } from "./ways";

const edited = vi.hoisted(() => vi.fn());
vi.mock("../../sync/job-context", async (original) => ({
  ...(await original<object>()),
  useStore: () => ({ edit: edited, job: "job" }),
  useJob: () => ({ state: { version: 3 }, unsent: 0 }),
}));
vi.mock("../../api/client", async (original) => ({ ...(await original<object>()), boardEarthing: vi.fn() }));

const way = (id: string, rest: Partial<EarthingWay> = {}): EarthingWay => ({
  id,
  title: `Way ${id}`,
  clause: "411.4",
  chosen: false,
  zs: 0.589,
  short: [],
  touch: 0,
  bond_csa: 10,
  bond_metres: 0,
  copper: 0,
  cost: 0,
  digs_later: 0,
  consequences: [],
  changes: [{ op: "set", kind: "board", id: "far", fields: { earthing: "TT" } }] as unknown as EarthingWay["changes"],
  ...rest,
});
const BOARD = { id: "far", name: "Studio board", earthing_reason: "" } as Board;
const FEED = { id: "feed", name: "Studio feed" } as Circuit;
const show = async (ways: EarthingWay[], board = BOARD) => {
  vi.mocked(client.boardEarthing).mockResolvedValue(ways);
  render(
    <QueryClientProvider client={new QueryClient()}>
      <Ways board={board} fed={FEED} onCircuit={() => {}} />
    </QueryClientProvider>,
  );
  await screen.findByText("Way export");
};
const line = (head: string) =>
  screen
    .getByRole("rowheader", { name: head })
    .closest("tr")
    ?.textContent?.replace(/\u00a0/g, " ") ?? "";

describe("the ways to earth an outbuilding", () => {
  beforeEach(() => edited.mockClear());
  afterEach(cleanup);

  it("stand side by side with their numbers, and what is not known is said so", async () => {
    await show([
      way("export", { touch: 230, bond_metres: 31, copper: 2.759, cost: 80.6, digs_later: 12 }),
      way("own", { zs: null, touch: null, bond_csa: null }),
    ]);
    expect(line("Zs at the board")).toContain("0.589 Ω");
    expect(line("Zs at the board")).toContain("not known: RA is missing");
    expect(line("touch voltage there if the PEN breaks")).toContain("about 230 V");
    expect(line("touch voltage there if the PEN breaks")).toContain("not known: RA or the demand");
    expect(line("bonding conductor")).toContain("10 mm², 31 m run with the feed");
    expect(line("extra cost")).toContain("80.60 by the firm’s prices");
    expect(line("digging if a metal pipe is added later")).toContain("12 m");
  });

  it("tell apart what is short under one of them from what is short whichever is taken", async () => {
    await show([
      way("export", { short: ["bonding is thin", "a lamp is short"] }),
      way("own", { short: ["a lamp is short"] }),
    ]);
    const told = line("fails with it");
    expect(told).toContain("bonding is thin; and 1 fail whichever is chosen");
    expect(told.match(/a lamp is short/)).toBeNull();
  });

  it("are chosen only with a reason, which goes with the change as one edit", async () => {
    await show([way("export", { chosen: true }), way("own")]);
    await userEvent.click(screen.getAllByRole("button", { name: "choose …" })[1] as HTMLElement);
    const reason = screen.getByRole("textbox", { name: "Way own, because" });
    await userEvent.type(reason, "   {Enter}");
    expect((screen.getByRole("button", { name: "choose" }) as HTMLButtonElement).disabled).toBe(true);
    expect(edited).not.toHaveBeenCalled();
    await userEvent.type(reason, "the soil is wet and the client wants no second rod{Enter}");
    expect(edited).toHaveBeenCalledTimes(1);
    expect(edited.mock.lastCall?.[0]).toMatchObject([
      { kind: "board", fields: { earthing: "TT" } },
      { kind: "board", id: "far", fields: { earthing_reason: "the soil is wet and the client wants no second rod" } },
    ]);
  });

  it("say why the one that stands was chosen", async () => {
    await show([way("export", { chosen: true })], { ...BOARD, earthing_reason: "no room for a rod" });
    expect(screen.getByText(/Chosen because: no room for a rod/)).toBeDefined();
  });
});
