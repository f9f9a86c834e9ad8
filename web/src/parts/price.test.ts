import { expect, test } from "vitest";
import { showMoney } from "../api/money";
import { coppered, pounds, priced, withVat } from "./price";

test("money and copper are said as more, less, or not at all", () => {
  expect([priced(0), priced(12.5), priced(-3)]).toEqual(["no extra cost", "costs £12.50 more", "saves £3.00"]);
  expect([pounds(1234.5), pounds(-0.4, 0), pounds(-2)]).toEqual(["£1234.50", "−£0", "−£2.00"]);
  expect([coppered(0.01), coppered(0.88), coppered(-2)]).toEqual(["", ", 0.9 kg more copper", ", 2.0 kg less copper"]);
});

test("says that an amount is without VAT, and what it comes to at the rate of the firm", () => {
  expect(withVat(1582.8)).toBe("£1582.80 without VAT");
  showMoney("€", 19);
  expect([withVat(100.5), pounds(-2)]).toEqual(["€100.50 without VAT, €119.60 with 19 %", "−€2.00"]);
  showMoney(undefined, undefined);
  expect(pounds(1)).toBe("£1.00");
});
