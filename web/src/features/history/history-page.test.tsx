// @vitest-environment jsdom
import { act, cleanup, screen, waitFor, within } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";
import * as client from "../../api/client";
import type { Change, EditLine } from "../../api/types";
import { FakeServer } from "../../sync/tests/fake-server";
import { renderInJob } from "../../sync/tests/in-job";
import { HistoryPage } from "./history-page";

vi.mock("../../api/client", async (original) => ({ ...(await original<typeof client>()), history: vi.fn() }));

const line = (version: number, rest: Partial<EditLine> = {}): EditLine => ({
  version,
  at: new Date(2026, 10, 26, 14, version).toISOString(),
  by: "colleague",
  mine: false,
  act: "edit",
  of: null,
  said: [`words of ${version}`],
  reachable: true,
  ...rest,
});
const rename = (name: string): Change => ({ op: "set", kind: "job", id: "j", fields: { name } });
const row = (version: number) => document.querySelector<HTMLElement>(`[data-version="${version}"]`) as HTMLElement;

describe("the history of a job", () => {
  let server: FakeServer;
  beforeEach(() => {
    server = new FakeServer();
    server.version = 5;
    vi.mocked(client.history).mockReset();
  });
  afterEach(cleanup);

  it("tells each edit in words, when, by whom, and what it took back", async () => {
    const lines = [
      line(5, { act: "back", of: 2 }),
      line(4, { act: "redo", of: 2 }),
      line(3, { act: "undo", of: 2, mine: true }),
      line(2, { said: ["Shower: length 2 m became 3 m", ...Array.from({ length: 9 }, (_, i) => `more ${i}`)] }),
    ];
    vi.mocked(client.history).mockResolvedValue({ version: 5, lines, more: false });
    renderInJob(<HistoryPage />, server);
    await screen.findByText("Shower: length 2 m became 3 m");
    expect(row(5).textContent).toContain("went back to version 2");
    expect(row(5).textContent).toContain("as it is now");
    expect(row(4).textContent).toContain("redid version 2");
    expect(row(3).textContent).toContain("undid version 2");
    expect(row(3).textContent).toContain("by you");
    expect(row(2).textContent).toContain("by colleague");
    expect(row(2).textContent).toContain("and 2 more");
    expect(row(2).querySelector("time")?.textContent).toBe("14:02");
  });

  it("goes back to a version only after asking", async () => {
    vi.mocked(client.history).mockResolvedValue({ version: 5, lines: [line(5), line(4)], more: false });
    const page = renderInJob(<HistoryPage />, server);
    await screen.findByText("words of 4");
    const back = vi.spyOn(page.engine(), "back").mockImplementation(() => {});
    await userEvent.click(within(row(4)).getByRole("button", { name: "go back to here" }));
    const asked = within(screen.getByRole("alertdialog"));
    expect(
      asked.getByText(
        /The job returns to how it was then, as a new version\. No history is lost and it can be undone, but other people’s later changes are undone too/,
      ),
    ).toBeTruthy();
    await userEvent.click(asked.getByRole("button", { name: "cancel" }));
    expect(back).not.toHaveBeenCalled();
    await userEvent.click(within(row(4)).getByRole("button", { name: "go back to here" }));
    await userEvent.click(screen.getByRole("button", { name: "go back" }));
    expect(back).toHaveBeenCalledWith(4);
  });

  it("offers the very start where the history reaches it, and nothing that it does not reach", async () => {
    server.version = 3;
    vi.mocked(client.history).mockResolvedValue({
      version: 3,
      lines: [line(3), line(2, { reachable: false })],
      more: false,
    });
    const page = renderInJob(<HistoryPage />, server);
    await screen.findByText("words of 2");
    expect(within(row(2)).queryByRole("button")).toBeNull();
    expect(screen.queryByText(/version 1, as created or opened from a file/)).toBeNull();
    page.unmount();
    vi.mocked(client.history).mockResolvedValue({ version: 3, lines: [line(3), line(2)], more: false });
    renderInJob(<HistoryPage />, server);
    await screen.findByText(/version 1, as created or opened from a file/);
  });

  it("gets older edits page by page", async () => {
    vi.mocked(client.history).mockImplementation(async (_, before) =>
      before ? { version: 5, lines: [line(3)], more: false } : { version: 5, lines: [line(5), line(4)], more: true },
    );
    renderInJob(<HistoryPage />, server);
    await screen.findByText("words of 4");
    await userEvent.click(screen.getByRole("button", { name: "older" }));
    await screen.findByText("words of 3");
    expect(client.history).toHaveBeenLastCalledWith("j", 4);
    expect(screen.queryByRole("button", { name: "older" })).toBeNull();
  });

  it("says so where nothing was changed, and where it cannot be read", async () => {
    vi.mocked(client.history).mockResolvedValueOnce({ version: 1, lines: [], more: false });
    const page = renderInJob(<HistoryPage />, server);
    await screen.findByText("Nothing has been changed yet.");
    page.unmount();
    vi.mocked(client.history).mockRejectedValue(new Error("The server cannot be reached."));
    renderInJob(<HistoryPage />, server);
    await screen.findByText("The server cannot be reached.");
    vi.mocked(client.history).mockResolvedValue({ version: 5, lines: [line(5)], more: false });
    await userEvent.click(screen.getByRole("button", { name: "try again" }));
    await screen.findByText("words of 5");
  });

  it("says that unsent edits stand above all of these", async () => {
    vi.mocked(client.history).mockResolvedValue({ version: 5, lines: [line(5)], more: false });
    const page = renderInJob(<HistoryPage />, server);
    await screen.findByText("words of 5");
    server.moods = ["away"];
    act(() => page.engine().edit([rename("x")]));
    await screen.findByText(/Unsent changes come on top of these/);
    await waitFor(() => expect(page.engine().get().flow.is).toBe("resting"));
  });
});
