// @vitest-environment jsdom
import { act, cleanup, fireEvent, render, screen } from "@testing-library/react";
import { afterEach, beforeEach, describe, expect, it } from "vitest";
import { Letters } from "../ui/letters";
import { Side } from "./side";

const edge = () => screen.getByRole("separator", { name: "Width of the column" });
const width = () => edge().getAttribute("aria-valuenow");

describe("the column at the left", () => {
  beforeEach(() => localStorage.clear());
  afterEach(cleanup);

  it("is widened by the arrows, stays between its ends, and is as it was left", () => {
    const page = render(<Side shown>names</Side>);
    expect(width()).toBe("240");
    fireEvent.keyDown(edge(), { key: "ArrowRight" });
    expect(width()).toBe("256");
    for (let i = 0; i < 40; i++) fireEvent.keyDown(edge(), { key: "ArrowRight" });
    expect(width()).toBe("460");
    page.unmount();
    render(<Side shown>names</Side>);
    expect(width()).toBe("460");
    for (let i = 0; i < 40; i++) fireEvent.keyDown(edge(), { key: "ArrowLeft" });
    expect(width()).toBe("190");
    fireEvent.doubleClick(edge());
    expect(width()).toBe("240");
  });

  it.each(["wide", "9999", "-3", ""])("takes its usual width where the browser keeps nonsense (%s)", (kept) => {
    localStorage.setItem("mellow-span/side-width", kept);
    render(<Side shown>names</Side>);
    expect(width()).toBe("240");
  });
});

describe("which of the two the letters are", () => {
  beforeEach(() => localStorage.clear());
  afterEach(cleanup);

  it("is told, and Escape on a word gives them back to the commands", () => {
    render(
      <main tabIndex={-1}>
        <Letters />
        <button type="button" data-word="device">
          40 A
        </button>
        <button type="button">something else</button>
      </main>,
    );
    const held = () => screen.getByRole("status").getAttribute("data-letters");
    expect(held()).toBe("commands");
    const word = screen.getByRole("button", { name: "40 A" });
    act(() => word.focus());
    expect(held()).toBe("word");
    fireEvent.keyDown(word, { key: "Escape" });
    expect(held()).toBe("commands");
    expect(document.activeElement).not.toBe(word);
    act(() => screen.getByRole("button", { name: "something else" }).focus());
    expect(held()).toBe("commands");
  });
});
