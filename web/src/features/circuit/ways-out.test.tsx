// @vitest-environment jsdom
import { QueryClient, QueryClientProvider } from "@tanstack/react-query";
import { cleanup, fireEvent, render, screen, within } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { MemoryRouter, Route, Routes } from "react-router";
import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";
import * as client from "../../api/client";
import type { Circuit, Option } from "../../api/types";
import { WaysOut } from "./ways-out";

const edited = vi.hoisted(() => vi.fn());
vi.mock("../../sync/job-context", async (original) => ({
  ...(await original<object>()),
  useStore: () => ({ edit: edited, job: "job" }),
  useJob: () => ({
    state: { version: 3, summaries: [{ id: "c", verdict: "short" }] },
    unsent: 0,
    inputs: { circuits: [{ id: "other", name: "Studio feed" }] },
  }),
}));
vi.mock("../../api/client", async (original) => ({ ...(await original<object>()), waysOut: vi.fn() }));

const option = (rest: Partial<Option>) =>
  ({
    id: "rcbo",
    title: "an RCBO of 30 mA, type A",
    changes: [{ op: "set", kind: "circuit", id: "c", fields: { device: { kind: "rcbo" } }, parent: null, index: null }],
    passes: true,
    verdict: "meets",
    reason: "least margin 12 %",
    margin: 0.12,
    cost: 18,
    digging: 0,
    copper: 0,
    rescues: 0,
    breaks: 0,
    others: [],
    unpriced: [],
    turned: [],
    ask: null,
    ...rest,
  }) as unknown as Option;
const energy = option({
  id: "makers-energy",
  title: "the maker's I²t of the device",
  changes: [{ op: "set", kind: "circuit", id: "c", fields: { device: { i2t: 12000 } }, parent: null, index: null }],
  cost: 0,
  ask: {
    kind: "circuit",
    id: "c",
    field: "device.i2t",
    label: "I²t from the maker's data",
    unit: "A²s",
    most: 12000,
    least: null,
  },
});
const show = async (...options: Option[]) => {
  vi.mocked(client.waysOut).mockResolvedValue(options);
  render(
    <QueryClientProvider client={new QueryClient()}>
      <MemoryRouter initialEntries={["/jobs/j/circuits/c"]}>
        <Routes>
          <Route
            path="/jobs/:jobId/circuits/:id"
            element={<WaysOut circuit={{ id: "c", existing: false } as Circuit} open onOpenChange={() => {}} />}
          />
        </Routes>
      </MemoryRouter>
    </QueryClientProvider>,
  );
  await screen.findAllByRole("listitem");
  return within(screen.getByRole("list"));
};

describe("ways out", () => {
  beforeEach(() => edited.mockClear());
  afterEach(cleanup);

  it("names what has no price, and what is worse then at boards and between devices", async () => {
    const list = await show(
      option({
        unpriced: ["the device"],
        cost: 0,
        breaks: 2,
        turned: ["far: main switch and busbar", "selectivity of m over f"],
        others: ["other"],
      }),
    );
    expect(list.getByText(/not priced: the device, leaves 2 worse/)).toBeDefined();
    expect(list.getByText(/worse then: far: main switch and busbar and selectivity of m over f/)).toBeDefined();
    expect(list.getByText(/changes Studio feed as well/)).toBeDefined();
    await userEvent.click(list.getByRole("button", { name: "use it" }));
    expect(edited.mock.lastCall?.[0]).toMatchObject([{ fields: { device: { kind: "rcbo" } } }]);
  });

  it("enters no figure of its own: the maker's is typed or set by the slider, and says what would do", async () => {
    const list = await show(energy);
    expect(list.queryByRole("button", { name: "use it" })).toBeNull();
    const enter = list.getByRole("button", { name: "enter it" }) as HTMLButtonElement;
    expect(enter.disabled).toBe(true);
    await userEvent.type(list.getByRole("textbox"), "15000");
    expect(list.getByText("too much: up to 12 000 A²s would do")).toBeDefined();
    fireEvent.change(list.getByRole("slider"), { target: { value: "9000" } });
    expect(list.getByText("would do")).toBeDefined();
    await userEvent.click(enter);
    expect(edited.mock.lastCall?.[0]).toMatchObject([{ kind: "circuit", id: "c", fields: { device: { i2t: 9000 } } }]);
  });

  it("refuses what is no figure and keeps it", async () => {
    const list = await show(energy);
    await userEvent.type(list.getByRole("textbox"), "a lot");
    expect(list.getByText(/A number is needed/)).toBeDefined();
    expect((list.getByRole("textbox") as HTMLInputElement).value).toBe("a lot");
    expect((list.getByRole("button", { name: "enter it" }) as HTMLButtonElement).disabled).toBe(true);
  });

  it("leads to the survey where two figures have to be read", async () => {
    const both = option({
      id: "measured-both",
      ask: {
        kind: "supply",
        id: "",
        field: "",
        label: "Ipf and Ze, both measured",
        unit: "A",
        most: 5900,
        least: null,
      },
    });
    const list = await show(both);
    expect(list.getByRole("link", { name: "enter them at the survey" }).getAttribute("href")).toMatch(
      /survey\?field=ipf$/,
    );
    expect(list.queryByRole("textbox")).toBeNull();
    expect(list.queryByRole("button", { name: "use it" })).toBeNull();
  });

  it("takes another way with the length that somebody measured, or the old one as assumed", async () => {
    const fields = { route: null, place: "masonry", length: 9 };
    const way = option({
      id: "route",
      changes: [{ op: "set", kind: "span", id: "s", fields, parent: null, index: null }] as never,
      ask: {
        kind: "span",
        id: "s",
        field: "length",
        label: "Length of the new way",
        unit: "m",
        most: null,
        least: null,
      },
    });
    const list = await show(way);
    await userEvent.click(list.getByRole("button", { name: "use it" }));
    expect(edited.mock.lastCall?.[0]).toMatchObject([{ fields: { place: "masonry", length: 9 } }]);
    await userEvent.type(list.getByRole("textbox"), "14.5");
    await userEvent.click(list.getByRole("button", { name: "use it" }));
    expect(edited.mock.lastCall?.[0]).toMatchObject([{ fields: { place: "masonry", length: 14.5 } }]);
  });
});
