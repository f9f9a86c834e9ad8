// @vitest-environment jsdom
import { QueryClient, QueryClientProvider } from "@tanstack/react-query";
import { cleanup, render, screen, waitFor, within } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { MemoryRouter } from "react-router";
import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";
import * as client from "../../api/client";
import type { JobLine, JobState } from "../../api/types";
import { JobList } from "./job-list";

vi.mock("../../api/client", async (original) => ({
  ...(await original<typeof client>()),
  listJobs: vi.fn(),
  addJob: vi.fn(),
  importJob: vi.fn(),
  removeJob: vi.fn(),
  archiveJob: vi.fn(),
  bringJobBack: vi.fn(),
}));
vi.mock("../../sync/shelf", () => ({ waiting: async () => new Map([["b", 2]]) }));

const job = (id: string, rest: Partial<JobLine> = {}): JobLine => ({
  id,
  name: `Job ${id}`,
  version: 1,
  changed: "2026-11-26T10:00:00Z",
  client: "",
  place: "",
  by: "",
  removed: null,
  archived: false,
  circuits: 4,
  short: 0,
  not_known: 0,
  close: 0,
  trouble: "",
  issued: 0,
  on_site: false,
  tested: 0,
  ...rest,
});
const page = (jobs: JobLine[], rest = {}) => ({ jobs, total: jobs.length, page: 1, pages: 1, ...rest });
const opened = vi.fn();
const show = () =>
  render(
    <QueryClientProvider client={new QueryClient({ defaultOptions: { queries: { retry: false } } })}>
      <MemoryRouter>
        <JobList firms={[]} designs person="me" onOpen={opened} caution={<p>caution</p>} />
      </MemoryRouter>
    </QueryClientProvider>,
  );
const row = (id: string) => within(document.querySelector(`[data-job="${id}"]`) as HTMLElement);

const menu = async (id: string, what: string) => {
  await userEvent.click(await screen.findByRole("button", { name: `more: Job ${id}` }));
  await userEvent.click(await screen.findByRole("menuitem", { name: what }));
};

describe("the list of jobs", () => {
  beforeEach(() => {
    opened.mockClear();
    vi.mocked(client.listJobs).mockResolvedValue(
      page([
        job("a", { short: 1, close: 2 }),
        job("b"),
        job("c", { trouble: "This job cannot be worked out." }),
        job("d", { circuits: 0 }),
      ]),
    );
  });
  afterEach(cleanup);

  it("says how each stands, which cannot be worked out, and which has unsent edits in this browser", async () => {
    show();
    await screen.findByText("Job a");
    expect(row("a").getByRole("link", { name: "Job a" }).getAttribute("href")).toBe("/jobs/a");
    expect(document.querySelector('[data-job="a"]')?.textContent).toMatch(/1.*2.*1/);
    await waitFor(() => expect(row("b").getByText(/2 unsent changes waiting in this/)).toBeTruthy());
    expect(row("c").getByText("not worked out")).toBeTruthy();
    expect(row("c").getByText(/Open it to correct it/)).toBeTruthy();
    expect(row("d").getByText("no circuit yet")).toBeTruthy();
    expect(screen.getByText("caution")).toBeTruthy();
  });

  it("says how far each is", async () => {
    vi.mocked(client.listJobs).mockResolvedValue(
      page([
        job("a"),
        job("b", { issued: 2 }),
        job("c", { issued: 1, on_site: true }),
        job("d", { on_site: true, tested: 3 }),
        job("e", { issued: 1, on_site: true, tested: 4 }),
      ]),
    );
    show();
    await screen.findByText("Job a");
    expect([...document.querySelectorAll("[data-stage]")].map((s) => s.textContent)).toEqual([
      "designing",
      "revision 2 issued",
      "revision 1 issued, on site",
      "test results for 3 of 4 circuits",
      "revision 1 issued, every circuit has test results",
    ]);
  });

  it("starts a job by its name and opens it", async () => {
    vi.mocked(client.addJob).mockResolvedValue({ id: "new" } as JobState);
    show();
    expect((screen.getByRole("button", { name: "start a job" }) as HTMLButtonElement).disabled).toBe(true);
    await userEvent.type(screen.getByLabelText("Name of the new job"), "  Barn  {Enter}");
    await waitFor(() => expect(opened).toHaveBeenCalledWith("new", true));
    const asked = vi.mocked(client.addJob).mock.calls[0]?.[0];
    expect(asked).toMatchObject({ name: "Barn", kind: "house", earthing: null, ways: null, distance: null });
  });

  it("asks a handful of questions, and tells an answer that is none where it stands", async () => {
    vi.mocked(client.addJob)
      .mockClear()
      .mockResolvedValue({ id: "new" } as JobState);
    show();
    await userEvent.type(screen.getByLabelText("Name of the new job"), "Barn");
    await userEvent.click(screen.getByLabelText(/a house with an outbuilding/));
    await userEvent.type(screen.getByLabelText("What the outbuilding is called"), "Studio");
    await userEvent.type(screen.getByLabelText(/Length of its sub-main, in m/), "far");
    await userEvent.click(screen.getByRole("button", { name: "start a job" }));
    expect(screen.getByRole("alert").textContent).toContain("A number is needed");
    expect(client.addJob).not.toHaveBeenCalled();
    await userEvent.clear(screen.getByLabelText(/Length of its sub-main, in m/));
    await userEvent.type(screen.getByLabelText(/Length of its sub-main, in m/), "22,5");
    await userEvent.selectOptions(screen.getByLabelText("Earthing of the supply"), "TN-C-S");
    await userEvent.click(screen.getByRole("button", { name: "start a job" }));
    await waitFor(() => expect(client.addJob).toHaveBeenCalled());
    expect(vi.mocked(client.addJob).mock.calls[0]?.[0]).toMatchObject({
      kind: "outbuilding",
      outbuilding: "Studio",
      distance: 22.5,
      earthing: "TN-C-S",
    });
  });

  it("searches from the first page, and looks at those put away", async () => {
    vi.mocked(client.listJobs).mockResolvedValue(page([job("a")], { total: 120, pages: 3 }));
    show();
    await screen.findByText("page 1 of 3, 120 jobs");
    vi.mocked(client.listJobs).mockResolvedValue(page([job("z")], { total: 120, page: 2, pages: 3 }));
    await userEvent.click(screen.getByRole("button", { name: "next" }));
    await screen.findByText("page 2 of 3, 120 jobs");
    await userEvent.type(screen.getByLabelText(/Search the jobs by name/), "q");
    await waitFor(() => expect(client.listJobs).toHaveBeenLastCalledWith("q", false, 1, false));
    vi.mocked(client.listJobs).mockResolvedValue(page([]));
    await userEvent.selectOptions(screen.getByLabelText("Which jobs"), "away");
    await waitFor(() => expect(client.listJobs).toHaveBeenLastCalledWith("q", true, 1, false));
    await screen.findByText("No job matches.");
  });

  it("puts a job away and takes it out again", async () => {
    vi.mocked(client.archiveJob).mockResolvedValue(job("a"));
    show();
    await menu("a", "archive");
    await waitFor(() => expect(client.archiveJob).toHaveBeenCalledWith("a", true));
  });

  it("deletes a job only when asked twice, and says why it could not", async () => {
    vi.mocked(client.removeJob).mockRejectedValueOnce(new Error("Not now."));
    show();
    await menu("a", "delete");
    expect(screen.getByRole("alertdialog").textContent).toContain(
      "It moves to deleted jobs, with its circuits and history, and can be restored for 30 days. After that it is gone for good",
    );
    await userEvent.click(screen.getByRole("button", { name: "delete it" }));
    await screen.findByText("Not now.");
    await userEvent.click(screen.getByRole("button", { name: "cancel" }));
    expect(screen.queryByRole("alertdialog")).toBeNull();
  });

  it("brings a deleted job back from the bin", async () => {
    vi.mocked(client.listJobs).mockResolvedValue(page([job("a", { removed: "2026-11-26T10:00:00Z" })]));
    vi.mocked(client.bringJobBack).mockResolvedValue(job("a"));
    show();
    await userEvent.selectOptions(await screen.findByLabelText("Which jobs"), "bin");
    await waitFor(() => expect(client.listJobs).toHaveBeenLastCalledWith("", false, 1, true));
    expect(screen.queryByRole("link", { name: "Job a" })).toBeNull();
    await userEvent.click(await screen.findByRole("button", { name: "Bring back Job a" }));
    await waitFor(() => expect(vi.mocked(client.bringJobBack).mock.calls[0]?.[0]).toBe("a"));
  });

  it("refuses a file that is no job before sending it, and tells the server's refusal", async () => {
    show();
    const input = await screen.findByLabelText("or open one from a file");
    await userEvent.upload(input, new File(["not json"], "job.json", { type: "application/json" }));
    await screen.findByText(/job.json is not a job file/);
    expect(client.importJob).not.toHaveBeenCalled();
    await userEvent.upload(input, new File(["x".repeat(2_000_001)], "big.json", { type: "application/json" }));
    await screen.findByText(/larger than 2 MB/);
    vi.mocked(client.importJob).mockRejectedValue(new Error("installation.boards: none given"));
    await userEvent.upload(input, new File(["{}"], "job.json", { type: "application/json" }));
    await screen.findByText(/Could not be opened: installation.boards/);
    vi.mocked(client.importJob).mockResolvedValue({ id: "in" } as JobState);
    await userEvent.upload(input, new File(["{}"], "job.json", { type: "application/json" }));
    await waitFor(() => expect(opened).toHaveBeenCalledWith("in"));
  });

  it("says so where there is no job, and where the list cannot be read", async () => {
    vi.mocked(client.listJobs).mockResolvedValueOnce(page([]));
    const first = show();
    await screen.findByText(/No jobs yet\. Name one above: it starts with your answers only, nothing made up/);
    first.unmount();
    vi.mocked(client.listJobs).mockRejectedValueOnce(new Error("The server cannot be reached."));
    show();
    await screen.findByText(/cannot be reached/);
    await userEvent.click(screen.getByRole("button", { name: "try again" }));
    await screen.findByText("Job a");
  });
});
