// @vitest-environment jsdom
import { cleanup, render, screen } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { afterEach, describe, expect, it, vi } from "vitest";
import type { Exercise, Marked } from "../../api/practice";
import { ExerciseForm } from "./exercise-form";

const ONE: Exercise = {
  head: "loop",
  title: "Loop",
  book: "bs7671",
  seed: 4,
  story: ["6 mm² cable, 45 m.", "Find Zs."],
  given: [{ id: "L", text: "length", value: 45, unit: "m" }],
  lines: [
    { id: "r1", symbol: "r1", ask: "resistance of the line", unit: "mΩ/m", table: "R20", decides: false },
    { id: "Zs", symbol: "Zs", ask: "loop at the far end", unit: "Ω", table: "", decides: false },
    { id: "holds", symbol: "holds", ask: "Is Zs within it?", unit: "", table: "", decides: true },
  ],
};
const mark = (id: string, stands: Marked["marks"][number]["stands"], told = "") => ({
  id,
  stands,
  told,
  answer: 1,
  right: 0.573,
  own: null,
  slip: "",
});
const MARKED: Marked = {
  first: "r1",
  whole: false,
  formulas: [],
  working: [],
  marks: [mark("r1", "wrong", "the row of the next size"), mark("Zs", "follows"), mark("holds", "left")],
};
const form = (more: Partial<Parameters<typeof ExerciseForm>[0]> = {}) => {
  const onTyped = vi.fn();
  render(<ExerciseForm exercise={ONE} typed={{}} wrong={{}} marked={null} onTyped={onTyped} {...more} />);
  return onTyped;
};

describe("an exercise to fill in", () => {
  afterEach(cleanup);

  it("tells the circuit, what is given, and asks each line by its symbol and unit", () => {
    form();
    expect(screen.getByText("Find Zs.")).toBeTruthy();
    expect(screen.getByLabelText("Given").textContent).toContain("45 m");
    expect(screen.getByLabelText(/resistance of the line/)).toBeTruthy();
    expect(screen.getByLabelText("yes")).toBeTruthy();
  });

  it("opens the table of a line where the tables are open, and offers none where they are shut", async () => {
    const onTable = vi.fn();
    form({ onTable });
    await userEvent.click(screen.getByRole("button", { name: "Table R20" }));
    expect(onTable).toHaveBeenCalledWith("R20");
    cleanup();
    form();
    expect(screen.queryByRole("button")).toBeNull();
  });

  it("passes on what is typed and chosen, and goes to the next line on Enter", async () => {
    const onTyped = form();
    await userEvent.type(screen.getByLabelText(/resistance of the line/), "3{Enter}");
    expect(onTyped).toHaveBeenCalledWith("r1", "3");
    expect(document.activeElement).toBe(screen.getByLabelText(/loop at the far end/));
    await userEvent.click(screen.getByLabelText("no"));
    expect(onTyped).toHaveBeenLastCalledWith("holds", "0");
  });

  it("says how each line stands and why, and never the figure while it can still be done again", () => {
    form({ marked: MARKED });
    const lines = [...document.querySelectorAll("[data-line]")];
    expect(lines.map((l) => l.getAttribute("data-stands"))).toEqual(["wrong", "follows", "left"]);
    expect(lines[0]?.textContent).toContain("the row of the next size");
    expect(document.body.textContent).not.toContain("0.573");
  });

  it("shows what is right beside it once it is handed in for good, and takes nothing more", () => {
    form({ marked: MARKED, locked: true });
    expect(document.querySelector("[data-line=r1]")?.textContent).toContain("is correct");
    expect((screen.getByLabelText(/loop at the far end/) as HTMLInputElement).disabled).toBe(true);
    expect(document.querySelector("[data-line=holds]")?.textContent).toContain("no is correct");
  });
});
