// @vitest-environment jsdom
import { cleanup, render, screen } from "@testing-library/react";
import { afterEach, describe, expect, it } from "vitest";
import type { Installation } from "../../api/types";
import { EarthingDrawing } from "./earthing-drawing";

const job = (feed: object, supply: object = {}, far: object = {}) =>
  ({
    supply: { earthing: "TN-C-S", earthing_csa: 16, bonding_csa: 10, bond: "conductor", extraneous: true, ...supply },
    boards: [
      { id: "b", name: "House", earthing: "supply", ra: null, bond: "none", extraneous: false, outbuilding: false },
      { id: "far", name: "Shed", earthing: "TT", ra: 60, bond: "none", extraneous: false, outbuilding: true, ...far },
    ],
    circuits: [
      {
        id: "m",
        board: "b",
        feeds: "far",
        armour_ends: "both",
        core_ends: null,
        run: { cable: { family: "armoured_xlpe90" } },
        ...feed,
      },
    ],
  }) as unknown as Installation;

describe("the drawing of the earth", () => {
  afterEach(cleanup);

  it.each([
    ["both", "armour earthed at both ends"],
    ["supply", "armour earthed at the supply end only"],
    ["none", "armour earthed at neither end"],
  ])("says of armour earthed at %s that it is", (armour_ends, said) => {
    render(<EarthingDrawing job={job({ armour_ends })} boards={[]} />);
    expect(screen.getByText(new RegExp(said))).toBeTruthy();
  });

  it("says where the cpc of a feed to an electrode ends, and nothing where nobody said", () => {
    const cable = { run: { cable: { family: "multicore_xlpe90" } } };
    for (const [core_ends, said] of [
      ["supply", /its cpc left off here/],
      ["both", /its cpc connected here/],
    ] as const) {
      render(<EarthingDrawing job={job({ ...cable, core_ends })} boards={[]} />);
      expect(screen.getByText(said)).toBeTruthy();
      cleanup();
    }
    render(<EarthingDrawing job={job(cable)} boards={[]} />);
    expect(screen.queryByText(/its cpc/)).toBeNull();
  });

  it("draws no bonding that is not there, whatever size was entered before", () => {
    render(<EarthingDrawing job={job({}, { bond: "none" })} boards={[]} />);
    expect(screen.getByText("not bonded")).toBeTruthy();
    expect(screen.queryByText("10 mm²")).toBeNull();
  });
});
