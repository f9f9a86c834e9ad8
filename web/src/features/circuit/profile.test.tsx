// @vitest-environment jsdom
import { cleanup, fireEvent, render, screen, within } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { useState } from "react";
import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";
import type { Profile } from "../../api/types";
import { marginsOf } from "./lanes";
import { SpanProfile } from "./profile";
import type { Point } from "./strip";

const stretch = (span: string, start: number, end: number, iz: number | null, rest = {}) => ({
  circuit: "c",
  span,
  name: span,
  start,
  end,
  iz,
  ib: 40,
  rating: 40,
  cable: "",
  look: "wall",
  method: "C",
  ...rest,
});
const PROFILE: Profile = {
  end: "",
  governing: "quilt",
  own_from: 2,
  iz_needed: 40,
  drop_limit: 5,
  u0: 230,
  zs_limit: 1.093,
  zs_reading_limit: 0.874,
  reach_drop: 65,
  reach_zs: null,
  stretches: [stretch("feed", 0, 2, 63), stretch("riser", 2, 6, 64), stretch("quilt", 6, 8, 36, { method: "101" })],
  points: [
    { at: 0, drop: 0, volts: 230, zs: 0.28 },
    { at: 8, drop: 1.2, volts: 227.2, zs: 0.39 },
  ],
};

const seen = {
  onSelect: vi.fn(),
  onDrag: vi.fn(),
  onDrop: vi.fn(),
  onCancel: vi.fn(),
  onPoint: vi.fn(),
  onPointDrag: vi.fn(),
};
const show = (profile: Profile | null, points: Point[] = []) => (
  <SpanProfile profile={profile} selected="quilt" points={points} {...seen}>
    <Sentence />
  </SpanProfile>
);

/** Stands for the sentence of a span: something in it may be open. */
function Sentence() {
  const [open, setOpen] = useState(false);
  return (
    <button type="button" onClick={() => setOpen(true)}>
      {open ? "a word is open" : "a word"}
    </button>
  );
}

describe("the span profile", () => {
  beforeEach(() => {
    localStorage.clear();
    vi.stubGlobal(
      "ResizeObserver",
      class {
        observe() {}
        disconnect() {}
      },
    );
    for (const one of Object.values(seen)) one.mockClear();
  });
  afterEach(cleanup);

  it("keeps what is open under the strip while the run is drawn for the first time, and when it goes again", async () => {
    const page = render(show(null));
    expect(screen.queryByRole("figure", { name: "Span profile" })).toBeNull();
    await userEvent.click(screen.getByRole("button", { name: "a word" }));
    page.rerender(show(PROFILE));
    expect(screen.getByRole("figure", { name: "Span profile" })).toBeDefined();
    expect(screen.getByRole("button", { name: "a word is open" })).toBeDefined();
    page.rerender(show({ ...PROFILE, stretches: [] }));
    expect(screen.getByText(/The cable run is drawn here to scale once every span has a length/)).toBeDefined();
    expect(screen.getByRole("button", { name: "a word is open" })).toBeDefined();
  });

  it("says the same as a table, span by span, and what is not known is said so", () => {
    render(show({ ...PROFILE, stretches: [...PROFILE.stretches, stretch("end", 8, 9, null, { method: "" })] }));
    const rows = within(screen.getByRole("table")).getAllByRole("row").slice(1);
    expect(rows.map((r) => r.textContent)).toEqual([
      "feed2 mC63 A",
      "riser4 mC64 A",
      "quilt2 m10136 A",
      "end1 mnot knownnot known",
    ]);
  });

  it("folds a lane away and remembers it in this browser", async () => {
    const page = render(show(PROFILE));
    expect(screen.getByText("% so far")).toBeDefined();
    await userEvent.click(screen.getByRole("button", { name: /Volt drop/ }));
    expect(screen.queryByText("% so far")).toBeNull();
    page.unmount();
    render(show(PROFILE));
    expect(screen.queryByText("% so far")).toBeNull();
    expect(screen.getByRole("button", { name: /Volt drop/ }).getAttribute("aria-expanded")).toBe("false");
    await userEvent.click(screen.getByRole("button", { name: /Volt drop/ }));
    expect(screen.getByText("% so far")).toBeDefined();
  });

  it("is read off along the run with the arrows", () => {
    render(show(PROFILE));
    const slider = screen.getByRole("slider", { name: "Read the profile along the run" });
    const first = slider.getAttribute("aria-valuetext");
    for (let i = 0; i < 36; i++) fireEvent.keyDown(slider, { key: "ArrowRight" });
    expect(Number(slider.getAttribute("aria-valuenow"))).toBeCloseTo(7.2, 1);
    expect(slider.getAttribute("aria-valuetext")).toContain("36 A");
    expect(slider.getAttribute("aria-valuetext")).not.toBe(first);
    for (let i = 0; i < 60; i++) fireEvent.keyDown(slider, { key: "ArrowRight" });
    expect(slider.getAttribute("aria-valuenow")).toBe("8");
  });

  it("marks the shortfall where the span carries less than is needed, and nowhere else", () => {
    const page = render(show(PROFILE));
    const shortfalls = () => page.container.querySelectorAll('rect[fill="url(#shortfall)"]');
    expect(shortfalls()).toHaveLength(1);
    page.rerender(show({ ...PROFILE, iz_needed: 36 }));
    expect(shortfalls()).toHaveLength(0);
  });

  it("labels pegs that stand at one place once, with all their names", () => {
    const at = (id: string, place: number | null): Point => ({ id, name: id, at: place, spur: false });
    const page = render(show(PROFILE, [at("wheel", 3), at("lamp", 3), at("kiln", null)]));
    expect(page.container.querySelectorAll("[data-point]")).toHaveLength(3);
    const labels = [...page.container.querySelectorAll("[data-point] text")].map((t) => t.textContent);
    expect(labels).toEqual(["wheel, lamp", "", "kiln"]);
  });

  describe("a peg that is dragged", () => {
    const peg = (page: ReturnType<typeof render>) => page.container.querySelector('[data-point="kiln"]') as SVGGElement;
    const kiln = (at: number | null): Point => ({ id: "kiln", name: "kiln", at, spur: false });
    const hold = (page: ReturnType<typeof render>) => {
      peg(page).setPointerCapture = () => {};
      fireEvent.pointerDown(peg(page), { pointerId: 1, clientX: 500 });
    };

    it("is taken where it was let go, also when the page has already drawn it there", () => {
      const page = render(show(PROFILE, [kiln(null)]));
      hold(page);
      fireEvent.pointerMove(peg(page), { pointerId: 1, clientX: 301 });
      const tried = seen.onPointDrag.mock.lastCall?.[1] as number;
      expect(tried).toBeGreaterThan(0);
      expect(tried).toBeLessThan(6);
      page.rerender(show(PROFILE, [kiln(tried)]));
      fireEvent.pointerUp(peg(page), { pointerId: 1, clientX: 301 });
      expect(seen.onPoint).toHaveBeenCalledWith("kiln", tried);
      expect(seen.onCancel).not.toHaveBeenCalled();
    });

    it("changes nothing where it was brought back, or given up with Escape", () => {
      const page = render(show(PROFILE, [kiln(3)]));
      const { left, right } = marginsOf(640);
      const there = left + ((2 + 3) / 8) * (640 - right - left);
      hold(page);
      fireEvent.pointerMove(peg(page), { pointerId: 1, clientX: 301 });
      fireEvent.pointerMove(peg(page), { pointerId: 1, clientX: there });
      fireEvent.pointerUp(peg(page), { pointerId: 1, clientX: there });
      hold(page);
      fireEvent.pointerMove(peg(page), { pointerId: 1, clientX: 301 });
      fireEvent.keyDown(window, { key: "Escape" });
      fireEvent.pointerUp(peg(page), { pointerId: 1, clientX: 301 });
      expect(seen.onPoint).not.toHaveBeenCalled();
      expect(seen.onCancel).toHaveBeenCalledTimes(2);
    });
  });
});
