// @vitest-environment jsdom
import { renderHook } from "@testing-library/react";
import { expect, it, vi } from "vitest";
import { useOnce } from "./once";

it("does what is asked for twice once, other work beside it, and the same again afterwards, also where it failed", async () => {
  const { result, rerender } = renderHook(() => useOnce());
  let end = () => {};
  const work = vi.fn(() => new Promise<void>((resolve) => (end = resolve)));
  const first = result.current("9 kW", work);
  rerender();
  await result.current("9 kW", work);
  expect(work).toHaveBeenCalledTimes(1);
  const other = vi.fn(async () => {});
  await result.current("3 kW", other);
  expect(other).toHaveBeenCalledOnce();
  end();
  await first;
  const bad = vi.fn(() => Promise.reject(new Error("away")));
  await expect(result.current("9 kW", bad)).rejects.toThrow("away");
  await result.current("9 kW", other);
  expect(other).toHaveBeenCalledTimes(2);
});
