// @vitest-environment jsdom
import { act, renderHook } from "@testing-library/react";
import { beforeEach, describe, expect, it } from "vitest";
import type { Exercise } from "../../api/practice";
import { useKeptTyping } from "../../ui/kept-typing";
import { readAnswers, SLIPS, type Typed } from "./answers";

const line = (id: string, unit: string, decides = false) => ({ id, symbol: id, ask: id, unit, table: "", decides });
const ONE: Exercise = {
  head: "loop",
  title: "Loop",
  book: "bs7671",
  seed: 4,
  story: [],
  given: [],
  lines: [line("r1", "mΩ/m"), line("Zs", "Ω"), line("Ia", "A"), line("holds", "", true)],
};
const EMPTY: Typed = {};

describe("what is typed into the lines of an exercise", () => {
  it("is read with a comma or a point, with its unit or without, and in thousands of it", () => {
    const { answers, wrong } = readAnswers(ONE, { r1: "7,41", Zs: "806 mΩ", Ia: "0.08 kA", holds: "1" });
    expect(answers).toEqual({ r1: 7.41, Zs: 0.806, Ia: 80, holds: 1 });
    expect(wrong).toEqual({});
  });

  it("may stay open: nothing is made up", () => {
    expect(readAnswers(ONE, { Zs: "  " }).answers).toEqual({ r1: null, Zs: null, Ia: null, holds: null });
  });

  it("is refused at its line where it is no number, and the others are read all the same", () => {
    const { answers, wrong } = readAnswers(ONE, { r1: "seven", Zs: "0.8", Ia: "80 m" });
    expect(Object.keys(wrong)).toEqual(["r1", "Ia"]);
    expect(wrong.Ia).toContain("is not a unit for this field");
    expect(answers).toEqual({ Zs: 0.8, holds: null });
  });
});

describe("a draft", () => {
  beforeEach(() => localStorage.clear());

  it("outlives the page, belongs to its exercise alone, and goes once it is put away", () => {
    const { result, rerender, unmount } = renderHook(({ key }) => useKeptTyping<Typed>(key, EMPTY), {
      initialProps: { key: "a" },
    });
    act(() => result.current[1]({ r1: "3" }));
    expect(result.current[0]).toEqual({ r1: "3" });
    rerender({ key: "b" });
    expect(result.current[0]).toEqual({});
    unmount();
    const again = renderHook(() => useKeptTyping<Typed>("a", EMPTY));
    expect(again.result.current[0]).toEqual({ r1: "3" });
    act(() => again.result.current[2]());
    expect(again.result.current[0]).toEqual({});
    expect(localStorage.getItem("a")).toBeNull();
  });

  it("that cannot be read is as good as none", () => {
    localStorage.setItem("a", "{not json");
    expect(renderHook(() => useKeptTyping<Typed>("a", EMPTY)).result.current[0]).toEqual({});
  });
});

it("has words for every kind of slip, none of them the name the program calls it by", () => {
  for (const [kind, words] of Object.entries(SLIPS)) expect(words).not.toBe(kind);
});
