// @vitest-environment jsdom
import { cleanup, render, screen } from "@testing-library/react";
import { afterEach, describe, expect, it } from "vitest";
import type { LineSaid } from "../api/types";
import { ReadLine } from "./read-line";

const said: LineSaid = {
  line: "lamp 20W b6 77",
  name: "Lamp",
  circuit: "c",
  words: [
    { start: 0, end: 4, text: "lamp", field: "load.kind", told: "load: lights" },
    { start: 5, end: 8, text: "20W", field: "load.amount", told: "20 W" },
    { start: 9, end: 11, text: "b6", field: "device.rating", told: "In 6 A, type B" },
  ],
  assumed: ["type of device not given: taken as an MCB"],
  unread: [{ start: 12, end: 14, text: "77", why: "a number without a unit" }],
  why: "",
  changes: [],
};

describe("a line as it was understood", () => {
  afterEach(cleanup);

  it("keeps every letter of the line, and tells each word, what was assumed and what was not read", () => {
    const { container } = render(<ReadLine said={said} />);
    expect(container.querySelector("p")?.textContent).toBe(said.line);
    expect(screen.getByText("In 6 A, type B")).toBeTruthy();
    expect(screen.getByText(/taken as an MCB/)).toBeTruthy();
    expect(screen.getByText("not understood: a number without a unit")).toBeTruthy();
    expect(container.querySelector("[data-said]")?.getAttribute("data-said")).toBe("partly");
  });

  it("says why a line cannot be taken", () => {
    render(<ReadLine said={{ ...said, unread: [], why: "there is no board called “Barn”" }} />);
    expect(screen.getByText(/no board called/)).toBeTruthy();
  });
});
