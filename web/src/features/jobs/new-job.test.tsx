// @vitest-environment jsdom
import { QueryClient, QueryClientProvider } from "@tanstack/react-query";
import { cleanup, render, screen } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { afterEach, describe, expect, it, vi } from "vitest";
import { NewJob } from "./new-job";

vi.mock("../../api/client", async (original) => ({
  ...(await original<object>()),
  bookList: async () => [{ id: "bs7671", title: "First", edition: "1", numbers: 9, to_check: 0 }],
  listPacks: async () => [{ mark: "1", book: "bs7671+1", over: "bs7671", title: "Ours", version: "2", away: false }],
}));
const show = (onStart: (body: unknown) => void) =>
  render(
    <QueryClientProvider client={new QueryClient()}>
      <NewJob onStart={onStart} pending={false} />
    </QueryClientProvider>,
  );

const type = (label: string | RegExp, text: string) => userEvent.type(screen.getByLabelText(label), text);
const start = () => userEvent.click(screen.getByRole("button", { name: "start a job" }));

describe("a new job from a short start", () => {
  afterEach(cleanup);

  it("asks nothing before it has a name, and leaves to the survey what is not answered", async () => {
    const onStart = vi.fn();
    show(onStart);
    expect(screen.queryByLabelText("Earthing of the supply")).toBeNull();
    await type("Name of the new job", "  By the pond ");
    await start();
    expect(onStart).toHaveBeenCalledWith({
      name: "By the pond",
      kind: "house",
      client: "",
      place: "",
      earthing: null,
      ways: null,
      outbuilding: "",
      distance: null,
      ruleset: "bs7671",
    });
  });

  it("is designed to a book, or to one with tables of one's own over it", async () => {
    const onStart = vi.fn();
    show(onStart);
    await type("Name of the new job", "Row");
    const ours = await screen.findByText("First with Ours 2");
    await userEvent.selectOptions(screen.getByLabelText(/Designed to/), ours);
    await start();
    expect(onStart.mock.lastCall?.[0]).toMatchObject({ ruleset: "bs7671+1" });
  });

  it("asks of the outbuilding only where there is one, and forgets nothing that was typed of it", async () => {
    const onStart = vi.fn();
    show(onStart);
    await type("Name of the new job", "Row");
    expect(screen.queryByLabelText(/Length of its sub-main, in m/)).toBeNull();
    await userEvent.click(screen.getByLabelText(/a house with an outbuilding/));
    await type("What the outbuilding is called", "Kiln shed");
    await type(/Length of its sub-main, in m/, "31 m");
    await userEvent.click(screen.getByLabelText(/an existing flat/));
    await start();
    // A flat has no outbuilding, whatever was typed before.
    expect(onStart.mock.lastCall?.[0]).toMatchObject({ kind: "flat", outbuilding: "", distance: null });
    await userEvent.click(screen.getByLabelText(/a house with an outbuilding/));
    await start();
    expect(onStart.mock.lastCall?.[0]).toMatchObject({ kind: "outbuilding", outbuilding: "Kiln shed", distance: 31 });
  });

  it.each([
    [/Ways of the board/, "2.5", "whole"],
    [/Ways of the board/, "plenty", "number"],
    [/Ways of the board/, "200", "96"],
    [/Length of its sub-main, in m/, "-3", "0.1"],
  ])("refuses %s of %s at its field and starts nothing", async (label, text, told) => {
    const onStart = vi.fn();
    show(onStart);
    await type("Name of the new job", "Row");
    await userEvent.click(screen.getByLabelText(/a house with an outbuilding/));
    await type(label, text);
    await start();
    expect(onStart).not.toHaveBeenCalled();
    expect(screen.getByLabelText(label).getAttribute("aria-invalid")).toBe("true");
    expect(screen.getByRole("alert").textContent).toContain(told);
    expect((screen.getByLabelText(label) as HTMLInputElement).value).toBe(text);
  });
});
