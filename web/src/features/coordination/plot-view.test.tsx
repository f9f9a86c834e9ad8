// @vitest-environment jsdom
import { cleanup, fireEvent, render, screen, within } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";
import type { DeviceBand, Plot } from "../../api/types";
import { PlotView } from "./plot-view";

const edited = vi.hoisted(() => vi.fn());
vi.mock("../../sync/job-context", async (original) => ({
  ...(await original<object>()),
  useStore: () => ({ edit: edited }),
}));

const device = (id: string, rest: Partial<DeviceBand> = {}): DeviceBand => ({
  id,
  name: id,
  title: `${rest.rating ?? 32} A type B MCB`,
  role: "circuit",
  circuit: id,
  load: null,
  rating: 32,
  ratings: [16, 20, 32, 40],
  area: [],
  // From 0.2 of the current on: at the middle of the plot within a tenth of the height to three tenths.
  slow: [
    [0.2, 1],
    [0.5, 0.3],
    [1, 0.3],
  ],
  fast: [
    [0.1, 1],
    [0.5, 0.1],
    [1, 0.1],
  ],
  why: "",
  ...rest,
});
const PLOT: Plot = {
  circuit: "kiln",
  scale: { i_lo: 10, i_hi: 10_000, t_lo: 0.01, t_hi: 10_000 },
  devices: [
    device("lead fuse", { role: "appliance", circuit: null, load: "l", rating: 13, ratings: [3, 5, 13] }),
    device("kiln"),
    device("service fuse", { role: "service", circuit: null, fast: [] }),
  ],
  damage: [{ id: "line", title: "line 6 mm²", points: [[0.2, 0.9]] }],
  faults: [],
  times: [],
  through: null,
  pairs: [
    { lower: "lead fuse", upper: "kiln", verdict: "close", text: "up to 100 A" },
    { lower: "kiln", upper: "service fuse", verdict: "not_known", text: "the maker's data decide" },
  ],
  amps: [],
  seconds: [],
};

describe("the plot of a chain", () => {
  beforeEach(() => {
    edited.mockClear();
    vi.stubGlobal(
      "ResizeObserver",
      class {
        observe() {}
        disconnect() {}
      },
    );
  });
  afterEach(cleanup);
  const row = (id: string) => within(document.querySelector(`[data-device="${id}"]`) as HTMLElement);

  it("steps a circuit's rating, and an appliance's own fuse, by the ratings there are", async () => {
    render(<PlotView plot={PLOT} name="Kiln" />);
    await userEvent.click(row("kiln").getByRole("button", { name: "Smaller rating of kiln" }));
    expect(edited.mock.lastCall?.[0]).toMatchObject([
      { kind: "circuit", id: "kiln", fields: { device: { rating: 20 } } },
    ]);
    await userEvent.click(row("kiln").getByRole("button", { name: "Larger rating of kiln" }));
    expect(edited.mock.lastCall?.[0]).toMatchObject([{ fields: { device: { rating: 40 } } }]);
    await userEvent.click(row("lead fuse").getByRole("button", { name: "Smaller rating of lead fuse" }));
    expect(edited.mock.lastCall?.[0]).toMatchObject([{ kind: "load", id: "l", fields: { local_fuse: 5 } }]);
    // There is none larger, and the supplier's fuse is not ours to step.
    edited.mockClear();
    await userEvent.click(row("lead fuse").getByRole("button", { name: "Larger rating of lead fuse" }));
    expect(edited).not.toHaveBeenCalled();
    expect(row("service fuse").queryByRole("button")).toBeNull();
  });

  it("is read by keyboard: the current and time in words, and of each device between which times it opens", () => {
    render(<PlotView plot={PLOT} name="Kiln" />);
    const slider = screen.getByRole("slider", { name: /Read the plot/ });
    expect(slider.getAttribute("aria-valuetext")).toBe("no point chosen yet");
    fireEvent.keyDown(slider, { key: "ArrowRight" });
    const told = slider.getAttribute("aria-valuetext") ?? "";
    // Just past the middle of three decades from 10 A: 10 x 1000^0.52 = 363 A.
    expect(told).toMatch(/^363 A, /);
    // 0.01 s x 10^6 to the power of the heights: 0.1 gives 0.04 s, 0.3 gives 0.63 s.
    expect(told).toContain("kiln 0.04 s to 0.63 s");
    expect(told).toContain("service fuse within 0.63 s");
    for (let i = 0; i < 30; i++) fireEvent.keyDown(slider, { key: "ArrowLeft" });
    expect(slider.getAttribute("aria-valuetext")).toContain("kiln may not operate");
    fireEvent.blur(slider);
    expect(slider.getAttribute("aria-valuetext")).toBe("no point chosen yet");
  });

  it("says in words which opens first, what has no curve and what no fast edge", () => {
    const bare = device("old fuse", { why: "no curve of it is tabulated", slow: [], fast: [] });
    render(<PlotView plot={{ ...PLOT, devices: [...PLOT.devices, bare] }} name="Kiln" />);
    expect(document.querySelector('[data-beside="close"]')?.textContent).toContain("up to 100 A");
    expect(document.querySelector('[data-beside="not_known"]')?.textContent).toContain("the maker's data decide");
    expect(
      row("service fuse").getByText(/Its minimum operating time is not tabulated: only the maximum is drawn/),
    ).toBeDefined();
    expect(row("old fuse").getByText("No curve: no curve of it is tabulated")).toBeDefined();
  });
});
