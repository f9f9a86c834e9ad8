// @vitest-environment jsdom
import { cleanup, render, screen } from "@testing-library/react";
import { afterEach, describe, expect, it } from "vitest";
import defaults from "../../api/defaults.gen.json";
import type { BoardResult, Installation } from "../../api/types";
import { DemandBars } from "./demand-bars";

const phase = (name: string, demand: number, later = demand) => ({ phase: name, demand, later, connected: demand });
const board = (id: string, phases: ReturnType<typeof phase>[]) =>
  ({ id, demand: { phases } }) as unknown as BoardResult;
const JOB = {
  supply: { fuse_in: 80 },
  boards: [
    { ...defaults.board, id: "house", name: "House" },
    { ...defaults.board, id: "shed", name: "" },
  ],
  circuits: [
    {
      ...defaults.circuit,
      id: "feed",
      name: "Shed feed",
      feeds: "shed",
      device: { ...defaults.circuit.device, rating: 40 },
    },
  ],
} as unknown as Installation;
const bars = () => [...document.querySelectorAll<HTMLElement>("[data-bar]")];

describe("the bars of demand", () => {
  afterEach(cleanup);

  it("stand against the service fuse at the origin and against the feed beyond it", () => {
    render(<DemandBars job={JOB} boards={[board("house", [phase("L1", 60)]), board("shed", [phase("L1", 30)])]} />);
    expect(bars().map((b) => b.textContent)).toEqual(["House 60 A of 80 A", "Unnamed board 30 A of 40 A"]);
  });

  it("are told by phase where a board has three, and are over only past their own limit", () => {
    render(<DemandBars job={JOB} boards={[board("house", [phase("L1", 81), phase("L2", 80), phase("L3", 10)])]} />);
    expect(bars().map((b) => b.textContent?.slice(0, 8))).toEqual(["House L1", "House L2", "House L3"]);
    expect(bars().map((b) => b.querySelector(".bg-short") !== null)).toEqual([true, false, false]);
  });

  it("hatch what may come later on top of what there is, to one scale", () => {
    render(<DemandBars job={JOB} boards={[board("house", [phase("L1", 50, 100)])]} />);
    const [now, later, limit] = [...(bars()[0]?.querySelectorAll<HTMLElement>('[aria-hidden="true"] > span') ?? [])];
    const width = (e: HTMLElement | undefined) => Number.parseFloat(e?.style.width ?? "");
    expect(later?.style.left).toBe(now?.style.width);
    expect(width(later)).toBeCloseTo(width(now));
    expect(Number.parseFloat(limit?.style.left ?? "")).toBeCloseTo(width(now) * 1.6);
    expect(bars()[0]?.textContent).toContain("later 100 A");
  });

  it("say that there is nothing to draw, and draw no limit that nobody entered", () => {
    const { rerender } = render(<DemandBars job={JOB} boards={[]} />);
    expect(screen.getByText("No demand to draw yet.")).toBeDefined();
    const open = { ...JOB, supply: { ...JOB.supply, fuse_in: null } } as Installation;
    rerender(<DemandBars job={open} boards={[board("house", [phase("L1", 60)])]} />);
    expect(bars()[0]?.textContent).toBe("House 60 A");
  });
});
