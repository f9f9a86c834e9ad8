// @vitest-environment jsdom
import { cleanup, render, screen } from "@testing-library/react";
import { afterEach, expect, test } from "vitest";
import type { Section } from "../../api/types";
import { SectionDrawing } from "./section-drawing";

afterEach(cleanup);

const shape = (circuit: string, x: number, rest: Partial<Section["shapes"][number]> = {}) => ({
  circuit,
  csa: 2.5,
  x,
  y: 0,
  width: 10,
  height: 6,
  inside: true,
  ...rest,
});
const draw = (section: Partial<Section>, light: string[] = []) =>
  render(
    <SectionDrawing
      section={{ outline: "", width: 30, height: 6, shapes: [], left_out: 0, why: "", ...section }}
      numbers={
        new Map([
          ["a", 1],
          ["b", 2],
        ])
      }
      light={new Set(light)}
      title="Loft, cut across"
    />,
  );

test("each body carries the number of its circuit, and its size is to scale", () => {
  draw({ shapes: [shape("a", 0), shape("b", 10, { width: 6 })] });
  expect(screen.getByRole("img", { name: "Loft, cut across" })).toBeTruthy();
  const bodies = [...document.querySelectorAll("[data-shape]")];
  expect(bodies.map((b) => b.querySelector("text")?.textContent)).toEqual(["1", "2"]);
  const [a, b] = bodies.map((one) => Number(one.querySelector("rect")?.getAttribute("width")));
  expect((a ?? 0) / (b ?? 1)).toBeCloseTo(9.7 / 5.7, 2);
});

test("what does not count is hollow, and what finds no place stands out by more than its tone", () => {
  draw({ outline: "conduit", shapes: [shape("a", 0), shape("b", 40, { inside: false })] }, ["a"]);
  const [a, b] = [...document.querySelectorAll("[data-shape] rect")];
  expect(a?.getAttribute("stroke-dasharray")).toBeTruthy();
  expect(b?.getAttribute("stroke-dasharray")).toBeNull();
  expect(Number(b?.getAttribute("stroke-width"))).toBeGreaterThan(Number(a?.getAttribute("stroke-width")));
  expect(document.querySelector("circle")).toBeTruthy();
});

test("where a size is not known it says why and draws nothing", () => {
  draw({ why: "still to enter: the cable of Cooker" });
  expect(screen.getByText(/still to enter: the cable of Cooker/)).toBeTruthy();
  expect(document.querySelector("svg")).toBeNull();
});
