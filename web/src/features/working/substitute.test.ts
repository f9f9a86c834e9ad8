import { expect, it } from "vitest";
import { spread } from "../circuit/labels";
import { substituted } from "./substitute";

const put = (formula: string, puts: Record<string, number>) => substituted({ formula, puts });

it("puts values into a formula, each symbol whole", () => {
  expect(put("It × Ca × Cg", { It: 36, Ca: 0.94, Cg: 1 })).toBe("36 × 0.94 × 1");
  expect(put("share × Zs,max", { share: 0.8, "Zs,max": 1.0925 })).toBe("0.8 × 1.093");
  expect(put("I² × t", { I: 821.4, t: 0.1 })).toBe("821.4² × 0.1");
  expect(put("√(I²t) / k", { "I²t": 18000, k: 115 })).toBe("√(18 000) / 115");
  expect(put("sum of the spans", {})).toBe("sum of the spans");
});

it("pushes labels apart and keeps them in the lane", () => {
  const lines = [10, 11, 12, 95].map((from) => ({ text: String(from), from, tone: "" }));
  const ys = spread(lines, 0, 92, 18).map((l) => l.y);
  for (let i = 1; i < ys.length; i++)
    expect((ys[i] as number) - (ys[i - 1] as number)).toBeGreaterThanOrEqual(18 - 1e-9);
  expect(Math.max(...ys)).toBeLessThanOrEqual(100);
});
