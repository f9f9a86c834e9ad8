// @vitest-environment jsdom
import { cleanup, render, screen } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";
import defaults from "../../api/defaults.gen.json";
import type { Circuit, Load } from "../../api/types";
import { gives, SourceWords } from "./source-words";

const edited = vi.hoisted(() => vi.fn());
const board = vi.hoisted(() => ({ rcd: 0.1 as number | null }));
vi.mock("../../sync/job-context", async (original) => ({
  ...(await original<object>()),
  useStore: () => ({ edit: edited, job: "job" }),
  useJob: () => ({
    inputs: {
      boards: [
        { id: "b", name: "House", rcd_idn: board.rcd, rcd2_idn: null, rcd3_idn: null },
        { id: "kept", name: "Backup", rcd_idn: null, rcd2_idn: null, rcd3_idn: null },
      ],
      circuits: [],
    },
  }),
  useLimits: () => ({ lo: 0.001, hi: 50_000, unit: "", meaning: "" }),
}));

const load = (rest: Partial<Load>) =>
  ({ ...defaults.load, id: "pv", name: "solar", kind: "inverter", basis: "A", amount: 16, ...rest }) as unknown as Load;
const circuit = (loads: Load[], device: object = {}) =>
  ({
    ...defaults.circuit,
    id: "c",
    board: "b",
    loads,
    device: { ...defaults.circuit.device, ...device },
  }) as unknown as Circuit;
const told = () => document.querySelector("[data-sentence]")?.textContent ?? "";
const missing = () =>
  [...document.querySelectorAll<HTMLElement>("[data-word][data-missing=true]")].map((word) => word.dataset.word);

describe("what is asked of a source", () => {
  beforeEach(() => {
    edited.mockClear();
    board.rcd = 0.1;
  });
  afterEach(cleanup);

  it("is nothing of a circuit without one", () => {
    render(<SourceWords circuit={circuit([load({ kind: "heating" })])} />);
    expect(document.querySelector("[data-sentence]")).toBeNull();
    expect([load({}), load({ kind: "generator" }), load({ kind: "motor" })].map(gives)).toEqual([true, true, false]);
  });

  it("is how it is connected first, and what that makes of it after", () => {
    const { rerender } = render(<SourceWords circuit={circuit([load({})])} />);
    expect(missing()).toEqual(["how it is connected", "battery", "RCD type required"]);
    expect(told()).toContain("Solar feeds in a way not entered.");
    rerender(<SourceWords circuit={circuit([load({ joins: "way" })])} />);
    expect(missing()).toEqual(["mains failure", "battery", "RCD type required"]);
    rerender(<SourceWords circuit={circuit([load({ joins: "changeover" })])} />);
    // In place of the mains it supplies its own board, and what disconnects the two is asked.
    expect(told()).toContain(
      "With the mains off it supplies House, disconnected from the mains by a switch not entered",
    );
    expect(missing()).toContain("change-over");
    expect(missing()).not.toContain("mains failure");
  });

  it("is its fault current of a generator alone, and its earth where it supplies a board", () => {
    const { rerender } = render(<SourceWords circuit={circuit([load({ kind: "generator", joins: "way" })])} />);
    expect(missing()).toEqual(["mains failure", "fault current"]);
    const kept = {
      joins: "way",
      loss_of_mains: true,
      battery: true,
      maker_rcd: "A",
      alone: "kept",
      parted: true,
    } as const;
    rerender(<SourceWords circuit={circuit([load(kept)])} />);
    expect(told()).toContain("With the mains off it supplies Backup");
    expect(missing()).toEqual(["earth of its neutral"]);
    rerender(<SourceWords circuit={circuit([load({ ...kept, alone_earth: "electrode" })])} />);
    expect(missing()).toEqual(["RA"]);
    rerender(<SourceWords circuit={circuit([load({ ...kept, alone_earth: "electrode", alone_ra: 60 })])} />);
    expect(missing()).toEqual([]);
    expect(told()).toContain("an earth electrode of the installation of 60 Ω.");
    expect(told()).toContain("cuts itself off in a time not entered");
  });

  it("is the direction of a device that works by electronics, and of no other", () => {
    const { rerender } = render(<SourceWords circuit={circuit([load({})], { kind: "mcb" })} />);
    expect(told()).not.toContain("The device of the circuit");
    rerender(<SourceWords circuit={circuit([load({})], { kind: "rcbo", idn: 0.03 })} />);
    expect(missing()).toContain("direction");
    rerender(<SourceWords circuit={circuit([load({})], { kind: "rcbo", idn: 0.03, both_ways: false })} />);
    expect(told()).toContain("is for current in one direction.");
  });

  it("is a type of RCD only where one is on the way", () => {
    board.rcd = null;
    const { rerender } = render(<SourceWords circuit={circuit([load({ joins: "way" })], { kind: "mcb" })} />);
    expect(missing()).toEqual(["mains failure", "battery"]);
    rerender(<SourceWords circuit={circuit([load({ joins: "way" })], { kind: "rcbo", idn: 0.03 })} />);
    expect(missing()).toContain("RCD type required");
  });

  it("is saved as the field it stands for", async () => {
    render(<SourceWords circuit={circuit([load({ joins: "way" })])} />);
    await userEvent.click(screen.getByRole("button", { name: /^mains failure/ }));
    await userEvent.keyboard("stays on{Enter}");
    expect(edited).toHaveBeenCalledExactlyOnceWith([
      { op: "set", kind: "load", id: "pv", fields: { loss_of_mains: false } },
    ]);
  });
});
