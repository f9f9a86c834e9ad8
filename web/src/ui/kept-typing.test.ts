// @vitest-environment jsdom
import { act, renderHook } from "@testing-library/react";
import { afterEach, describe, expect, it, vi } from "vitest";
import { leaveFieldsOnClose, useKeptTyping } from "./kept-typing";

describe("what is typed and not yet taken", () => {
  afterEach(() => {
    vi.unstubAllGlobals();
    localStorage.clear();
  });

  it("stands there again when the page is opened anew, until it is empty", () => {
    const first = renderHook(() => useKeptTyping("a", ""));
    act(() => first.result.current[1]("half a wor"));
    first.unmount();
    const second = renderHook(() => useKeptTyping("a", ""));
    expect(second.result.current[0]).toBe("half a wor");
    act(() => second.result.current[1](""));
    expect(localStorage.getItem("a")).toBeNull();
    expect(renderHook(() => useKeptTyping("b", "")).result.current[0]).toBe("");
  });

  it("holds for this page where nothing can be kept", () => {
    vi.stubGlobal("localStorage", undefined);
    const first = renderHook(() => useKeptTyping("c", ""));
    act(() => first.result.current[1]("words"));
    expect(first.result.current[0]).toBe("words");
  });

  it("leaves the field that somebody is in when the page closes, so that it saves", () => {
    leaveFieldsOnClose();
    const field = document.body.appendChild(document.createElement("input"));
    const left = vi.fn();
    field.addEventListener("blur", left);
    field.focus();
    window.dispatchEvent(new Event("pagehide"));
    expect(left).toHaveBeenCalledOnce();
    field.remove();
  });
});
