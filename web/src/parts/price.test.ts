import { expect, test } from "vitest";
import { coppered, pounds, priced } from "./price";

test("money and copper are said as more, less, or not at all", () => {
  expect([priced(0), priced(12.5), priced(-3)]).toEqual(["no extra cost", "costs £12.50 more", "saves £3.00"]);
  expect([pounds(1234.5), pounds(-0.4, 0), pounds(-2)]).toEqual(["£1234.50", "−£0", "−£2.00"]);
  expect([coppered(0.01), coppered(0.88), coppered(-2)]).toEqual(["", ", 0.9 kg more copper", ", 2.0 kg less copper"]);
});
