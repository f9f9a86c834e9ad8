// @vitest-environment jsdom
import { QueryClient, QueryClientProvider } from "@tanstack/react-query";
import { cleanup, render, screen } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { afterEach, describe, expect, it, vi } from "vitest";
import * as client from "../api/client";
import { Symbolic, symbolOf, WhyCheck } from "./why";

vi.mock("../sync/job-context", () => ({ useRules: () => ({ id: "bs7671" }) }));
vi.mock("../api/client", async (original) => ({ ...(await original<object>()), whyAsked: vi.fn() }));

const WHY = {
  checks: [{ id: "capacity", guards: "Heat.", wrong: "Old insulation.", differ: "" }],
  symbols: [
    { symbol: "I2", told: "conventional" },
    { symbol: "volt_drop/I2", told: "the second line" },
    { symbol: "S", told: "cross-section" },
    { symbol: "I²t", told: "energy" },
  ],
};
const show = (what: React.ReactNode) => {
  vi.mocked(client.whyAsked).mockResolvedValue(WHY);
  return render(<QueryClientProvider client={new QueryClient()}>{what}</QueryClientProvider>);
};

describe("why this?", () => {
  afterEach(cleanup);

  it("knows a symbol in its check, by itself, with a mark, and by its part", () => {
    expect(symbolOf(WHY.symbols, "I2", "volt_drop")).toBe("the second line");
    expect(symbolOf(WHY.symbols, "I2", "overload_current")).toBe("conventional");
    expect(symbolOf(WHY.symbols, "S,lead of dryer", "x")).toBe("cross-section");
    expect(symbolOf(WHY.symbols, "I²t′", "x")).toBe("energy");
    expect(symbolOf(WHY.symbols, "taken", "x")).toBeUndefined();
  });

  it("opens the words of a check, and asks for them no sooner", async () => {
    show(<WhyCheck check="capacity" />);
    expect(client.whyAsked).not.toHaveBeenCalled();
    await userEvent.click(screen.getByText("why this?"));
    expect(await screen.findByText("Heat.")).toBeDefined();
    expect(screen.queryByText(/practitioners differ/)).toBeNull();
  });

  it("says what a symbol is where it stands, and leaves a plain word alone", async () => {
    show(
      <>
        <Symbolic symbol="S" check="x" />
        <Symbolic symbol="taken" check="x" />
      </>,
    );
    const symbol = await screen.findByRole("button", { name: "S" });
    expect(screen.queryByRole("button", { name: "taken" })).toBeNull();
    await userEvent.click(symbol);
    expect(screen.getByText("cross-section")).toBeDefined();
    await userEvent.click(symbol);
    expect(screen.queryByText("cross-section")).toBeNull();
  });
});
