import { expect, test } from "vitest";
import { readFigure, readingText } from "./reading-text";

test("a figure is read with a comma or a point, and more than the range with its end", () => {
  expect(readFigure("0,45")).toEqual({ value: 0.45, over: false });
  expect(readFigure(" > 200 ")).toEqual({ value: 200, over: true });
  expect(readFigure(">0.5")).toEqual({ value: 0.5, over: true });
  for (const bad of ["", ">", "-1", "1 000", "1e9", "abc", "1.2.3", "2000000", "<5"])
    expect(readFigure(bad)).toBeNull();
});

test("a reading says what was shown, and never a figure that was not", () => {
  expect(readingText({ value: 0.45 }, "Ω")).toBe("0.45 Ω");
  expect(readingText({ value: 0.5, over: true }, "MΩ")).toBe("> 0.5 MΩ");
  expect(readingText({ over: true }, "MΩ")).toBe("over range");
  expect(readingText({ ok: false }, "")).toBe("no");
});
