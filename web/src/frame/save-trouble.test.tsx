// @vitest-environment jsdom
import { act, cleanup, screen, waitFor, within } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";
import type { Change, FieldError } from "../api/types";
import { FakeServer } from "../sync/tests/fake-server";
import { renderInJob } from "../sync/tests/in-job";
import { SaveState } from "./save-state";
import { SaveTrouble } from "./save-trouble";

const rename = (name: string): Change => ({ op: "set", kind: "job", id: "j", fields: { name } });
const note = (text: string): Change => ({ op: "set", kind: "job", id: "j", fields: { note: text } });

let server: FakeServer;
const open = async () => {
  const page = renderInJob(
    <>
      <SaveState />
      <SaveTrouble
        signIn={(then) => (
          <button type="button" onClick={() => then(server.signedIn)}>
            sign in here
          </button>
        )}
      />
    </>,
    server,
  );
  await waitFor(() => expect(screen.getByRole("status").dataset.phase).toBe("saved"));
  return page;
};
const phase = () => screen.getByRole("status").dataset.phase;

describe("how saving stands, and what stands in its way", () => {
  beforeEach(() => {
    server = new FakeServer();
  });
  afterEach(cleanup);

  it("says saved when all is answered", async () => {
    const page = await open();
    act(() => page.engine().edit([rename("Barn")]));
    await waitFor(() => expect(server.installation.name).toBe("Barn"));
    await waitFor(() => expect(phase()).toBe("saved"));
  });

  it("says how much is kept while the server is away", async () => {
    const page = await open();
    server.moods = ["away", "away", "away"];
    act(() => page.engine().edit([rename("Barn"), note("x")]));
    await waitFor(() =>
      expect(screen.getByRole("status").textContent).toBe("server not reached: 2 changes kept in this browser"),
    );
  });

  it("says after two minutes since when there is no connection, and that what is typed is safe", async () => {
    vi.useFakeTimers({ shouldAdvanceTime: true });
    try {
      const page = await open();
      server.moods = Array(200).fill("away");
      act(() => page.engine().edit([rename("Barn")]));
      await waitFor(() => expect(phase()).toBe("away"));
      await act(() => vi.advanceTimersByTimeAsync(60_000));
      expect(screen.queryByRole("alert")).toBeNull();
      await act(() => vi.advanceTimersByTimeAsync(70_000));
      expect(screen.getByRole("alert").textContent).toMatch(/^No connection since .*1 change is safe in this browser/);
      server.moods = [];
      await act(() => vi.advanceTimersByTimeAsync(70_000));
      await waitFor(() => expect(phase()).toBe("saved"));
      expect(screen.queryByRole("alert")).toBeNull();
    } finally {
      vi.useRealTimers();
    }
  });

  it("tells a server in trouble from one that is away", async () => {
    const page = await open();
    server.moods = ["broken"];
    act(() => page.engine().edit([rename("Barn")]));
    await waitFor(() => expect(screen.getByRole("status").textContent).toContain("server has a fault: 1 change kept"));
  });

  it("shows both values of a clash and does what is chosen", async () => {
    const page = await open();
    server.other([rename("Theirs")]);
    act(() => page.engine().edit([rename("Mine"), note("kept")]));
    const sheet = within(await screen.findByRole("dialog"));
    expect(sheet.getByLabelText("mine: Mine")).toBeTruthy();
    expect((sheet.getByLabelText("mine: Mine") as HTMLInputElement).checked).toBe(true);
    await userEvent.click(sheet.getByLabelText(/them.*: Theirs/));
    await userEvent.click(sheet.getByRole("button", { name: "save with these" }));
    await waitFor(() => expect(phase()).toBe("saved"));
    expect(server.installation).toMatchObject({ name: "Theirs", note: "kept" });
    expect(screen.queryByRole("dialog")).toBeNull();
  });

  it("says at which field an edit was refused, until that is understood", async () => {
    const page = await open();
    const error = {
      field: "device.rating",
      given: "0",
      allowed: "1 to 1 600 A",
      message: "0 is not possible here.",
      change: 0,
      kind: "circuit",
      id: "c",
    };
    server.moods = [{ refuse: error as FieldError }];
    act(() => page.engine().edit([rename("x")]));
    expect((await screen.findAllByRole("alert"))[0]?.textContent).toContain(
      "Not saved, device rating: 0 is not possible here.",
    );
    await userEvent.click(screen.getByRole("button", { name: "OK" }));
    expect(screen.queryByText(/Not saved/)).toBeNull();
  });

  it("lists what was set aside, lets it be tried again, saved as a file, and let go only when asked twice", async () => {
    const page = await open();
    server.moods = [{ refuse: null }, { refuse: null }];
    act(() => {
      page.engine().edit([rename("one")]);
      page.engine().edit([note("two")]);
    });
    await screen.findByText("2 edits were not accepted.");
    await userEvent.click(screen.getByRole("button", { name: "show" }));
    const sheet = within(screen.getByRole("dialog"));
    expect(sheet.getByText('change job: name "one"')).toBeTruthy();
    const file = decodeURIComponent(
      sheet.getAllByRole("link", { name: "save as file" })[0]?.getAttribute("href") ?? "",
    );
    expect(JSON.parse(file.replace("data:application/json,", "")).item.act.changes).toEqual([rename("one")]);
    await userEvent.click(sheet.getAllByRole("button", { name: "try again" })[0] as HTMLElement);
    await waitFor(() => expect(server.installation.name).toBe("one"));
    await userEvent.click(sheet.getByRole("button", { name: "discard …" }));
    expect(sheet.getByText('change job: note "two"')).toBeTruthy();
    await userEvent.click(sheet.getByRole("button", { name: "discard for good" }));
    await waitFor(() => expect(screen.queryByText(/not accepted/)).toBeNull());
    expect(server.installation.note).toBe("");
  });

  it("asks for a sign-in, says what waits, and goes on after it", async () => {
    const page = await open();
    server.signedIn = null;
    act(() => page.engine().edit([rename("Barn")]));
    const sheet = within(await screen.findByRole("dialog"));
    expect(sheet.getByText(/Your 1 unsent change is kept here/)).toBeTruthy();
    server.signedIn = "me";
    await userEvent.click(sheet.getByRole("button", { name: "sign in here" }));
    await waitFor(() => expect(server.installation.name).toBe("Barn"));
    await waitFor(() => expect(phase()).toBe("saved"));
  });

  it("says whose later edit keeps mine from being taken back", async () => {
    const page = await open();
    act(() => page.engine().undo());
    await screen.findByText("You have nothing to undo.");
    await userEvent.click(screen.getByRole("button", { name: "OK" }));
    expect(screen.queryByText(/You have nothing to undo/)).toBeNull();
  });
});
