import { expect, test } from "vitest";
import { longAway } from "./words";

test("changes are called safe only where the browser keeps them", () => {
  expect(longAway("14:05", 3, true).text).toContain("3 changes are safe in this browser");
  for (const unsent of [0, 3]) {
    const { text } = longAway("14:05", unsent, false);
    expect(text).toContain("lost if it closes");
    expect(text).not.toMatch(/safe|is kept/);
  }
});
