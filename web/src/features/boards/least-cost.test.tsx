// @vitest-environment jsdom
import { QueryClient, QueryClientProvider } from "@tanstack/react-query";
import { cleanup, render, screen, within } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";
import * as client from "../../api/client";
import { LeastCost } from "./least-cost";

const edited = vi.hoisted(() => vi.fn());
vi.mock("../../sync/job-context", async (original) => ({
  ...(await original<object>()),
  useStore: () => ({ edit: edited, job: "job" }),
  useJob: () => ({ state: { version: 3 }, unsent: 0 }),
}));
vi.mock("../../api/client", async (original) => ({ ...(await original<object>()), cheapest: vi.fn() }));

type Joint = Awaited<ReturnType<typeof client.cheapest>>;
const money = (cable: number) => ({ cable, laying: 100, device: 20, digging: 0, copper_kg: cable / 100, known: true });
const chosen = (circuit: string, before: number | null, csa: number | null, cost: number) => ({
  circuit,
  before,
  csa,
  cpc_csa: null,
  cost,
  copper: cost / 10,
});
const answer = (rest: Partial<Joint> = {}) =>
  ({
    chosen: [
      chosen("feed", 10, 16, 42.5),
      chosen("kiln", 10, 6, -12),
      chosen("lamp", 1, 1, 0),
      chosen("open", null, null, 0),
    ],
    before: money(500),
    after: money(530.5),
    exact: true,
    gap: 0,
    proof: "exact: 40 sizes were solved",
    unsolved: [],
    unknown: [],
    waiting: [],
    tried: 40,
    ...rest,
  }) as unknown as Joint;
const NAMES = new Map([
  ["feed", "Studio feed"],
  ["kiln", "Kiln"],
  ["lamp", "Lamp"],
  ["open", "Something open"],
]);
const show = () =>
  render(
    <QueryClientProvider client={new QueryClient()}>
      <LeastCost names={NAMES} asked />
    </QueryClientProvider>,
  );

describe("which also checks what a sub-main feeds; cheapest sizes for the whole job", () => {
  beforeEach(() => edited.mockClear());
  afterEach(cleanup);

  it("shows what moves, before and after, and takes all of it as one edit", async () => {
    vi.mocked(client.cheapest).mockResolvedValue(answer());
    show();
    const rows = within(await screen.findByRole("table"))
      .getAllByRole("row")
      .slice(1);
    expect(rows.map((r) => r.textContent)).toEqual([
      "Studio feed10 mm²16 mm²+£42.50+4.3 kg",
      "Kiln10 mm²6 mm²−£12.00−1.2 kg",
    ]);
    await userEvent.click(screen.getByRole("button", { name: "use these sizes" }));
    expect(edited).toHaveBeenCalledTimes(1);
    expect(edited.mock.lastCall?.[0]).toMatchObject([
      { id: "feed", fields: { cable: { csa: 16, cpc_csa: null } } },
      { id: "kiln", fields: { cable: { csa: 6, cpc_csa: null } } },
    ]);
  });

  it("takes some only with a word that they were found together, and none not at all", async () => {
    vi.mocked(client.cheapest).mockResolvedValue(answer());
    show();
    await userEvent.click(await screen.findByRole("checkbox", { name: "Take the size of Studio feed" }));
    expect(
      screen.getByText(/These were found as a set: leave some out and the rest may fail or cost more than need be/),
    ).toBeDefined();
    await userEvent.click(screen.getByRole("button", { name: "use 1 of 2" }));
    expect(edited.mock.lastCall?.[0]).toMatchObject([{ id: "kiln" }]);
    await userEvent.click(screen.getByRole("checkbox", { name: "Take the size of Kiln" }));
    expect((screen.getByRole("button", { name: "use 0 of 2" }) as HTMLButtonElement).disabled).toBe(true);
  });

  it("says how sure it is, and whom no size cures", async () => {
    const proof = "the best of 9000 sizes that were solved; at most 12.0% dearer than the cheapest";
    const left = { unsolved: ["kiln"], unknown: ["open"], waiting: ["lamp"] };
    vi.mocked(client.cheapest).mockResolvedValue(answer({ exact: false, proof, ...left, chosen: [] }));
    show();
    expect(await screen.findByText(/at most 12.0% dearer/)).toBeDefined();
    expect(screen.getByText("No size fixes Kiln.")).toBeDefined();
    expect(screen.getByText("Not known, for want of an entry: Something open.")).toBeDefined();
    expect(screen.getByText("Behind a feed that is one of these: Lamp.")).toBeDefined();
    expect(screen.getByText("The sizes entered are the cheapest.")).toBeDefined();
  });
});
