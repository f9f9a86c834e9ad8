// @vitest-environment jsdom
import { afterEach, describe, expect, it, vi } from "vitest";
import { remembered } from "./remembered";

const refuse = () => {
  throw new DOMException("denied", "SecurityError");
};
const full = { getItem: () => null, setItem: refuse, removeItem: refuse };

describe("small things this browser remembers", () => {
  afterEach(() => {
    vi.unstubAllGlobals();
    localStorage.clear();
  });

  it("outlive the page, and are forgotten when they are to be", () => {
    expect(remembered.set("a", "1")).toBe(true);
    expect([remembered.get("a"), localStorage.getItem("a")]).toEqual(["1", "1"]);
    expect(remembered.set("a", null)).toBe(true);
    expect([remembered.get("a"), localStorage.getItem("a")]).toEqual([null, null]);
    expect(remembered.data("a", 3)).toBe(3);
    localStorage.setItem("b", "{no");
    expect(remembered.data("b", 3)).toBe(3);
  });

  it.each([
    [
      "asking for the storage is refused",
      () => Object.defineProperty(globalThis, "localStorage", { configurable: true, get: refuse }),
    ],
    ["each look is refused", () => vi.stubGlobal("localStorage", { ...full, getItem: refuse })],
    ["it is full", () => vi.stubGlobal("localStorage", full)],
    ["there is none", () => vi.stubGlobal("localStorage", undefined)],
  ])("hold for this page where %s, and say so", (_, deny) => {
    const real = Object.getOwnPropertyDescriptor(globalThis, "localStorage");
    try {
      deny();
      expect(remembered.get("fresh")).toBeNull();
      expect(remembered.set("c", "2")).toBe(false);
      expect(remembered.get("c")).toBe("2");
      expect(remembered.set("c", null)).toBe(false);
      expect(remembered.get("c")).toBeNull();
    } finally {
      vi.unstubAllGlobals();
      if (real) Object.defineProperty(globalThis, "localStorage", real);
    }
  });
});
