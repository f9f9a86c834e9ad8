import { describe, expect, it } from "vitest";
import { exact, figure, percent, quantity, readQuantity, watts } from "./quantity";

const metres = { lo: 0.1, hi: 1000, unit: "m" };

describe("reading a quantity", () => {
  it.each([
    ["2.4", 2.4],
    ["2,4 m", 2.4],
    ["240 cm", 2.4],
    [" 1250mm ", 1.25],
    [".5", 0.5],
  ])("takes %s", (text, value) => {
    expect(readQuantity(text, metres)).toEqual({ ok: true, value });
  });

  it.each([
    ["", "A number is needed"],
    ["ten", "A number is needed"],
    ["3 A", "A is not a unit for this field"],
    ["0", "0 m is outside 0.1 to 1 000 m"],
    ["1.5 km", "km is not a unit"],
    ["1e5", "e5 is not a unit"],
  ])("refuses %s and says what it takes", (text, why) => {
    const read = readQuantity(text, metres);
    expect(read.ok ? "" : read.why).toContain(why);
  });

  it("keeps to whole numbers where only those make sense", () => {
    const read = readQuantity("2.6", { lo: 1, hi: 40, unit: "", whole: true });
    expect(read).toEqual({ ok: false, why: "2.6 is not a whole number." });
  });

  it("takes 2.1 as 2.1 kA where only kA makes sense, and says so", () => {
    const ipf = { lo: 50, hi: 50000, unit: "A" };
    expect(readQuantity("2.1", ipf)).toEqual({ ok: true, value: 2100, told: "read as 2.1 kA" });
    expect(readQuantity("740", ipf)).toEqual({ ok: true, value: 740 });
    expect(readQuantity("2.1 A", ipf).ok).toBe(false);
    expect(readQuantity("0.01", ipf).ok).toBe(false);
    // Where amperes make sense they are meant.
    expect(readQuantity("6", { lo: 1, hi: 1600, unit: "A" })).toEqual({ ok: true, value: 6 });
  });

  it("tells mΩ from MΩ by what the field can hold, never by silence", () => {
    expect(readQuantity("350 mΩ", { lo: 0.01, hi: 500, unit: "Ω" })).toEqual({ ok: true, value: 0.35 });
  });
});

describe("writing a figure", () => {
  it.each([
    [36, "A", "36"],
    [37.999, "A", "38"],
    [1.3656, "Ω", "1.366"],
    [85, "Ω", "85.0"],
    [1666.67, "Ω", "1 667"],
    [4.5, "%", "4.50"],
    [14.7, "m", "14.7"],
    [0.05, "m", "0.05"],
    [3.75, "m", "3.75"],
    [230, "V", "230"],
    [67474, "A²s", "67 474"],
  ])("%f %s is %s", (value, unit, text) => expect(figure(value, unit)).toBe(text));

  it("puts an input back with all its digits", () => {
    expect([exact(3.755), exact(0.35123), exact(0.1 + 0.2), watts(12345)]).toEqual([
      "3.755",
      "0.35123",
      "0.3",
      "12.345 kW",
    ]);
  });

  it("reads 1000 A and more in kA, as the server does", () => {
    expect([quantity(999.4, "A"), quantity(1000, "A"), quantity(16000, "A"), quantity(2100, "V")]).toEqual([
      "999.4 A",
      "1 kA",
      "16 kA",
      "2100 V",
    ]);
  });

  it("does not boast with margins", () => {
    expect([percent(-0.1), percent(0.034), percent(5.5)]).toEqual(["−10 %", "3 %", "> 100 %"]);
  });
});
