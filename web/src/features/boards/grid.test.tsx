// @vitest-environment jsdom
import { cleanup, fireEvent, screen, waitFor } from "@testing-library/react";
import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";
import * as client from "../../api/client";
import type { Board } from "../../api/types";
import { useJob } from "../../sync/job-context";
import { BOARD, FakeServer } from "../../sync/tests/fake-server";
import { renderInJob } from "../../sync/tests/in-job";
import { Grid } from "./grid";

vi.mock("../../api/client", async (original) => ({ ...(await original<typeof client>()), saidRows: vi.fn() }));

type Asked = Parameters<typeof client.saidRows>[1];
/** What was asked of the reader, in order, and how each is answered. */
let asked: (Asked & { answer: (why?: string) => void })[];
let count = 0;

function Ways() {
  const { inputs } = useJob();
  const board = inputs?.boards[0];
  return board ? <Grid board={{ ...board, ways: 4 } as Board} circuits={inputs?.circuits ?? []} /> : null;
}
const focused = () => (document.activeElement as HTMLElement).dataset.cell;
const cell = (at: string) => document.querySelector(`[data-cell="${at}"]`) as HTMLElement;
/** Type into the chosen cell and leave it by a key, all before anything is answered. */
const type = (text: string, key: string) => {
  fireEvent.keyDown(document.activeElement as Element, { key: text[0] });
  const field = document.activeElement as HTMLInputElement;
  fireEvent.change(field, { target: { value: text } });
  fireEvent.keyDown(field, { key });
};

describe("the ways of a board, typed into", () => {
  let server: FakeServer;
  beforeEach(async () => {
    asked = [];
    count = 0;
    vi.mocked(client.saidRows).mockImplementation(
      (_, body) =>
        new Promise((resolve) => {
          const id = body.circuits?.[0] ?? `made-${++count}`;
          const made = body.circuits?.[0] ? [] : [{ op: "add", kind: "circuit", id, parent: BOARD, fields: {} }];
          const text = body.rows[0]?.[0] ?? "";
          const named =
            body.columns?.[0] === "name" ? [{ op: "set", kind: "circuit", id, fields: { name: text } }] : [];
          const answer = (why = "") =>
            resolve({
              columns: body.columns,
              rows: [
                {
                  circuit: id,
                  changes: why ? made : [...made, ...named],
                  assumed: [],
                  cells: [{ column: body.columns?.[0], text, why }],
                },
              ],
            } as unknown as Awaited<ReturnType<typeof client.saidRows>>);
          asked.push({ ...body, answer });
        }),
    );
    server = new FakeServer();
    renderInJob(<Ways />, server);
    fireEvent.click(await screen.findByText("spare way", { selector: "[data-cell='0-0'] *" }));
    cell("0-0").focus();
  });
  afterEach(cleanup);

  it("hand the focus on before the next key, so that none is a command of the page", async () => {
    type("Bell", "Enter");
    expect(focused()).toBe("1-0");
    type("Gate", "Tab");
    expect(focused()).toBe("1-1");
    fireEvent.keyDown(cell("1-1"), { key: "x" });
    fireEvent.keyDown(document.activeElement as Element, { key: "Escape" });
    expect(focused()).toBe("1-1");
    await waitFor(() => expect(asked).toHaveLength(2));
  });

  it("make one circuit of a blank way, however fast its cells are typed", async () => {
    type("Bell", "Tab");
    type("b6", "Tab");
    type("8 W bell", "Tab");
    expect(cell("0-0").textContent).toBe("Bell");
    expect(cell("0-1").getAttribute("aria-busy")).toBe("true");
    await waitFor(() => expect(asked).toHaveLength(1));
    asked[0]?.answer();
    // The next cells are for the circuit that was made, are read once that was sent, and show what was typed meanwhile.
    await waitFor(() => expect(asked).toHaveLength(3));
    expect(asked.map((a) => a.circuits)).toEqual([[null], ["made-1"], ["made-1"]]);
    expect([cell("0-1"), cell("0-2")].map((c) => [c.textContent, c.getAttribute("aria-busy")])).toEqual([
      ["b6", "true"],
      ["8 W bell", "true"],
    ]);
    expect(server.installation.circuits.map((c) => c.name)).toEqual(["Bell"]);
    asked[1]?.answer("“b6” of what?");
    await screen.findByText(/Bell, device: “b6”: “b6” of what\?/);
    expect(server.installation.circuits).toHaveLength(1);
  });

  it("make the circuit with the next cell where the first was not answered, and keep what that was", async () => {
    vi.mocked(client.saidRows).mockRejectedValueOnce(new Error("away"));
    type("Bell", "Tab");
    type("b6", "Tab");
    await waitFor(() => expect(asked).toHaveLength(1));
    expect([asked[0]?.circuits, asked[0]?.columns]).toEqual([[null], ["device"]]);
    expect(cell("0-0").textContent).toBe("Bell");
    expect(cell("0-0").getAttribute("aria-invalid")).toBe("true");
  });

  it("make another circuit of the next way", async () => {
    type("Bell", "Enter");
    type("Gate", "Tab");
    await waitFor(() => expect(asked).toHaveLength(2));
    expect(asked.map((a) => a.circuits)).toEqual([[null], [null]]);
    for (const one of asked) one.answer();
    await waitFor(() => expect(server.installation.circuits.map((c) => c.name)).toEqual(["Bell", "Gate"]));
  });
});
