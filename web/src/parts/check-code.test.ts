import { expect, test } from "vitest";
import { codeOf } from "./check-code";

test("a check code is the first sixteen letters of a hash in fours", () => {
  expect(codeOf("11f64135a1b67bcc60ac26cce1a8ff5a")).toBe("11f6 4135 a1b6 7bcc");
});
