// @vitest-environment jsdom
import { cleanup, render, screen } from "@testing-library/react";
import { MemoryRouter } from "react-router";
import { afterEach, describe, expect, it, vi } from "vitest";
import { OtherSources } from "./other-sources";

const found = vi.hoisted(() => ({ data: undefined as unknown }));
vi.mock("../../parts/use-overview", () => ({ useOverview: () => found }));
vi.mock("../../sync/job-context", async (original) => ({
  ...(await original<object>()),
  useStore: () => ({ job: "job" }),
  useJob: () => ({ inputs: { boards: [{ id: "b", name: "House" }] } }),
}));
const source = (rest: object) => ({
  load: "l",
  name: "solar",
  circuit: "c",
  board: "b",
  together: true,
  rated: 16,
  adds: 24,
  alone: null,
  ...rest,
});
const show = (...sources: object[]) => {
  found.data = { sources };
  render(
    <MemoryRouter>
      <OtherSources />
    </MemoryRouter>,
  );
};

describe("the sources beside the mains", () => {
  afterEach(cleanup);

  it("are not spoken of where there are none", () => {
    show();
    expect(screen.queryByRole("region")).toBeNull();
  });

  it("are told with what each adds, or that it is not entered, and what it supplies", () => {
    show(
      source({}),
      source({ load: "g", name: "generator", rated: null, adds: null }),
      source({ load: "s", name: "standby", together: false, adds: 0, alone: "b" }),
    );
    expect(screen.getAllByRole("listitem").map((one) => one.textContent)).toEqual([
      "solar, 16 A, on House: adds up to 24 A to every fault",
      "generator, output not entered, on House: adds a current not entered to every fault",
      "standby, 16 A, on House: instead of the mains; supplies House with the mains off",
    ]);
  });
});
