// @vitest-environment jsdom
import { QueryClient, QueryClientProvider } from "@tanstack/react-query";
import { cleanup, screen, waitFor } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";
import * as client from "../../api/client";
import type { CellUse } from "../../api/types";
import { FakeServer } from "../../sync/tests/fake-server";
import { renderInJob } from "../../sync/tests/in-job";
import { DoubtfulCells } from "./doubtful-cells";

vi.mock("../../api/client", async (original) => ({
  ...(await original<typeof client>()),
  jobCells: vi.fn(),
  readCell: vi.fn(),
  reopenCell: vi.fn(),
}));

const cell = (row: string, rest: Partial<CellUse> = {}): CellUse => ({
  table: "4D5",
  title: "Flat twin",
  row,
  column: "C",
  value: 47,
  unit: "A",
  uses: 3,
  check: true,
  read: "",
  ...rest,
});
const show = () =>
  renderInJob(
    <QueryClientProvider client={new QueryClient()}>
      <DoubtfulCells ruleset="bs7671" />
    </QueryClientProvider>,
    new FakeServer(),
  );

describe("values to be checked", () => {
  beforeEach(() => {
    localStorage.clear();
    vi.mocked(client.readCell).mockReset().mockResolvedValue([]);
    vi.mocked(client.reopenCell).mockReset().mockResolvedValue([]);
  });
  afterEach(cleanup);

  it("are listed with their uses, those that were read apart", async () => {
    vi.mocked(client.jobCells).mockResolvedValue([cell("6"), cell("10", { check: false, read: "agrees, A" })]);
    show();
    expect(await screen.findByText(/1 of them, most used first/)).toBeTruthy();
    expect(screen.getByRole("heading", { name: "Checked against the printed standard" })).toBeTruthy();
    expect(screen.getByText("agrees, A")).toBeTruthy();
  });

  it("are settled only with the edition said, and it is remembered", async () => {
    vi.mocked(client.jobCells).mockResolvedValue([cell("6")]);
    show();
    const user = userEvent.setup();
    await user.click(await screen.findByRole("button", { name: /4D5, 6, C: 47 A/ }));
    const agrees = screen.getByRole("button", { name: "agrees with the printed table" });
    expect(agrees).toHaveProperty("disabled", true);
    await user.type(screen.getByLabelText(/Edition you are checking against/), "third");
    await user.click(agrees);
    await waitFor(() =>
      expect(client.readCell).toHaveBeenCalledWith("bs7671", {
        table: "4D5",
        row: "6",
        column: "C",
        value: null,
        edition: "third",
      }),
    );
    await user.click(await screen.findByRole("button", { name: /4D5, 6, C: 47 A/ }));
    expect(screen.getByLabelText(/Edition you are checking against/)).toHaveProperty("value", "third");
  });

  it("take a printed value that is a number, and say so where it is none", async () => {
    vi.mocked(client.jobCells).mockResolvedValue([cell("6")]);
    localStorage.setItem("mellow-span/edition", "third");
    show();
    const user = userEvent.setup();
    await user.click(await screen.findByRole("button", { name: /4D5, 6, C: 47 A/ }));
    const printed = screen.getByLabelText(/or the value printed there/);
    await user.type(printed, "fifty");
    expect(screen.getByText("Needs 0 or more.")).toBeTruthy();
    expect(screen.getByRole("button", { name: "use the printed value" })).toHaveProperty("disabled", true);
    await user.clear(printed);
    await user.type(printed, "46,5");
    await user.click(screen.getByRole("button", { name: "use the printed value" }));
    await waitFor(() => expect(vi.mocked(client.readCell).mock.calls[0]?.[1].value).toBe(46.5));
  });

  it("come into doubt again", async () => {
    vi.mocked(client.jobCells).mockResolvedValue([cell("6", { check: false, read: "agrees, A" })]);
    show();
    const user = userEvent.setup();
    await user.click(await screen.findByRole("button", { name: /4D5, 6, C: 47 A, agrees, A/ }));
    await user.click(screen.getByRole("button", { name: "mark as unchecked" }));
    await waitFor(() =>
      expect(client.reopenCell).toHaveBeenCalledWith("bs7671", { table: "4D5", row: "6", column: "C" }),
    );
  });
});
