// @vitest-environment jsdom
import { cleanup, fireEvent, screen, waitFor } from "@testing-library/react";
import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";
import * as client from "../../api/client";
import defaults from "../../api/defaults.gen.json";
import type { Installation } from "../../api/types";
import { FakeServer, house } from "../../sync/tests/fake-server";
import { renderInJob } from "../../sync/tests/in-job";
import { NewCopy } from "./new-copy";

vi.mock("../../api/client", async (original) => ({ ...(await original<typeof client>()), saidRows: vi.fn() }));

const onAdd = vi.fn(async () => {});
/** Answers to what was said, in the order it was asked, each given when the test says so. */
let answers: ((why?: string) => void)[];
const becomes = () => screen.getByLabelText("new value") as HTMLInputElement;
const say = (text: string) => {
  fireEvent.change(becomes(), { target: { value: text } });
  fireEvent.submit(becomes().closest("form") as HTMLFormElement);
};
const steps = () => screen.queryAllByRole("listitem").map((item) => item.textContent?.replace(" remove", ""));

describe("a copy being made", () => {
  beforeEach(async () => {
    answers = [];
    onAdd.mockClear();
    vi.mocked(client.saidRows).mockImplementation(
      (_, asked) =>
        new Promise((resolve) => {
          const change = { op: "set", kind: "circuit", id: "c", fields: { name: asked.rows[0]?.[0] } };
          answers.push((why = "") =>
            resolve({ rows: [{ cells: [{ why }], changes: [change] }] } as unknown as Awaited<
              ReturnType<typeof client.saidRows>
            >),
          );
        }),
    );
    const server = new FakeServer();
    server.installation = {
      ...house(),
      circuits: [{ ...defaults.circuit, id: "c", name: "Shower", board: "b" }],
    } as unknown as Installation;
    renderInJob(<NewCopy onAdd={onAdd} />, server);
    fireEvent.click(await screen.findByRole("button", { name: "a new copy …" }));
    fireEvent.change(screen.getByLabelText("what changes"), { target: { value: "circuit:c" } });
  });
  afterEach(cleanup);

  it("keeps what is typed and added while an answer is on its way, and asks the same once", async () => {
    say("7 kW");
    fireEvent.submit(becomes().closest("form") as HTMLFormElement);
    expect(answers).toHaveLength(1);
    fireEvent.change(screen.getByLabelText("value"), { target: { value: "device" } });
    say("b32");
    fireEvent.change(becomes(), { target: { value: "10 fl" } });
    answers[0]?.();
    await waitFor(() => expect(steps()).toEqual(["Shower: 7 kW"]));
    const look = screen.getByRole("button", { name: "work it out" }) as HTMLButtonElement;
    expect(look.disabled, "one is still reading it …").toBe(true);
    answers[1]?.();
    await waitFor(() => expect(steps()).toEqual(["Shower: 7 kW", "Shower: b32"]));
    expect(becomes().value).toBe("10 fl");
    fireEvent.click(screen.getByRole("button", { name: "work it out" }));
    fireEvent.click(screen.getByRole("button", { name: "work it out" }));
    await waitFor(() => expect(screen.queryByLabelText("new value")).toBeNull());
    expect(onAdd).toHaveBeenCalledOnce();
    expect(onAdd).toHaveBeenCalledWith("Shower: 7 kW; Shower: b32", [
      expect.objectContaining({ fields: { name: "7 kW" } }),
      expect.objectContaining({ fields: { name: "b32" } }),
    ]);
  });

  it("says at the field what was not understood, and keeps it there", async () => {
    say("quite hot");
    answers[0]?.("“quite hot” is no load");
    expect((await screen.findByRole("alert")).textContent).toBe("“quite hot” is no load");
    expect(becomes().value).toBe("quite hot");
    expect(steps()).toEqual([]);
    expect((screen.getByRole("button", { name: "work it out" }) as HTMLButtonElement).disabled).toBe(true);
  });
});
