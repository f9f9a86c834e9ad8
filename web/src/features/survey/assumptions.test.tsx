// @vitest-environment jsdom
import { QueryClient, QueryClientProvider } from "@tanstack/react-query";
import { cleanup, render, screen } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { afterEach, describe, expect, it, vi } from "vitest";
import * as client from "../../api/client";
import type { Assumption } from "../../api/types";
import { Assumptions } from "./assumptions";

vi.mock("../../sync/job-context", async (original) => ({
  ...(await original<object>()),
  useStore: () => ({ job: "job" }),
  useJob: () => ({
    state: { version: 3 },
    unsent: 0,
    inputs: {
      circuits: [
        { id: "a", name: "Shower" },
        { id: "b", name: "" },
      ],
    },
  }),
}));
vi.mock("../../api/client", async (original) => ({ ...(await original<object>()), assumptions: vi.fn() }));

const other = (text: string, rest = {}) => ({ value: 1, text, worse: [], better: [], places: [], ...rest });
const one = (field: string, rest: Partial<Assumption> = {}): Assumption => ({
  field,
  board: null,
  title: field,
  source: "assumed",
  told: `${field} is assumed`,
  instead: [],
  moves: 0,
  first: false,
  ...rest,
});
const opened = vi.fn();
const show = (found: Assumption[]) => {
  vi.mocked(client.assumptions).mockResolvedValue(found);
  render(
    <QueryClientProvider client={new QueryClient()}>
      <Assumptions onCircuit={opened} />
    </QueryClientProvider>,
  );
};
const line = async (field: string) => {
  await screen.findByText(`${field} is assumed`);
  return document.querySelector(`[data-assumption=${field}]`)?.textContent?.replace(/\s+/g, " ") ?? "";
};

describe("what the survey assumed", () => {
  afterEach(cleanup);

  it("tells what each costs, names the circuits that fail, and leads to them", async () => {
    show([one("ze", { first: true, instead: [other("at Ze 0.35 Ω", { worse: ["a", "b"] })] })]);
    expect(await line("ze")).toContain("at Ze 0.35 Ω: 2 circuits fail: Shower, an unnamed circuit");
    await userEvent.click(screen.getByRole("button", { name: "Shower" }));
    expect(opened).toHaveBeenCalledWith("a");
  });

  it("names one to be read first, and only one", async () => {
    show([one("ipf", { first: true }), one("ze")]);
    expect(await line("ipf")).toContain("measure this first");
    expect(await line("ze")).not.toContain("measure this first");
    expect(await line("ze")).toContain("Set to the worst value usually declared");
  });

  it("tells what would be cured, what is short at a place, and what changes nothing", async () => {
    show([
      one("fuse_in", {
        instead: [
          other("at service fuse 60 A", { places: ["Maximum demand on the service fuse"] }),
          other("at service fuse 100 A", { better: ["a"] }),
          other("at service fuse 80 A"),
        ],
      }),
    ]);
    const told = await line("fuse_in");
    expect(told).toContain("fails then: maximum demand on the service fuse");
    expect(told).toContain("at service fuse 100 A: 1 would then meet");
    expect(told).toContain("at service fuse 80 A: no verdict changes");
  });

  it("says so where everything was measured", async () => {
    show([]);
    expect(await screen.findByText("Every supply value was measured.")).toBeDefined();
  });
});
