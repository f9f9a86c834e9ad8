// @vitest-environment jsdom
import { QueryClient, QueryClientProvider } from "@tanstack/react-query";
import { act } from "react";
import { createRoot } from "react-dom/client";
import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";
import type { Field, Rules } from "../api/types";
import { Engine, type Remote } from "../sync/engine";
import { JobProvider } from "../sync/job-context";
import type { Shelf } from "../sync/shelf";
import type { Note } from "../sync/state";
import type { Tabs } from "../sync/tabs";
import { PartFields } from "./part-fields";

const field = (name: string, rest: Partial<Field>): Field => ({
  field: `span.${name}`,
  meaning: `meaning of ${name}`,
  unit: "",
  kind: "number",
  lo: null,
  hi: null,
  choices: [],
  usual: [],
  optional: false,
  ...rest,
});
const rules = {
  fields: [
    field("depth", { lo: 0.3, hi: 3, unit: "m" }),
    field("guarded", { kind: "flag", optional: true }),
    field("polystyrene", { kind: "flag" }),
    field("location", { kind: "choice", choices: ["", "bathroom", "pool"] }),
    field("phases", { kind: "choice", choices: ["1", "3"] }),
    field("name", { kind: "text" }),
    { ...field("ways", {}), field: "board.ways" },
  ],
  devices: [],
} as unknown as Rules;
/** An engine that is opened by nobody and asks nothing. */
const idle = (id: string, person: string) => {
  const engine = new Engine(id, person, {} as Remote, {} as Shelf, { close: () => {} } as Tabs<Note>);
  engine.open = async () => {};
  return engine;
};
const values = { depth: 0.7, guarded: null, polystyrene: false, location: "", phases: 1, name: "riser" };

describe("the fields of a part", () => {
  let host: HTMLDivElement;
  let root: ReturnType<typeof createRoot>;
  const onSave = vi.fn();
  beforeEach(() => {
    vi.stubGlobal("IS_REACT_ACT_ENVIRONMENT", true);
    onSave.mockClear();
    host = document.body.appendChild(document.createElement("div"));
    root = createRoot(host);
    act(() =>
      root.render(
        <QueryClientProvider client={new QueryClient()}>
          <JobProvider id="j" person="me" rules={rules} make={idle}>
            <PartFields kind="span" values={values} onSave={onSave} skip={["name"]} />
          </JobProvider>
        </QueryClientProvider>,
      ),
    );
  });
  afterEach(() => {
    act(() => root.unmount());
    host.remove();
  });
  const input = <T extends Element = HTMLInputElement>(name: string) =>
    host.querySelector(`[data-name="span.${name}"] input, [data-name="span.${name}"] select`) as unknown as T;
  const type = (name: string, text: string) =>
    act(() => {
      const at = input(name);
      Object.getOwnPropertyDescriptor(HTMLInputElement.prototype, "value")?.set?.call(at, text);
      at.dispatchEvent(new Event("input", { bubbles: true }));
      at.dispatchEvent(new FocusEvent("focusout", { bubbles: true }));
    });
  const pick = (name: string, value: string) =>
    act(() => {
      const at = input<HTMLSelectElement>(name);
      Object.getOwnPropertyDescriptor(HTMLSelectElement.prototype, "value")?.set?.call(at, value);
      at.dispatchEvent(new Event("change", { bubbles: true }));
    });

  it("shows those of its kind, and not those that have a place elsewhere", () => {
    expect(host.querySelectorAll("[data-name]")).toHaveLength(5);
    expect(host.textContent).toContain("meaning of depth");
    expect(host.textContent).not.toContain("meaning of name");
    expect(host.textContent).not.toContain("meaning of ways");
  });

  it("saves a number within its range, and refuses one outside without losing it", () => {
    type("depth", "90 cm");
    expect(onSave).toHaveBeenLastCalledWith({ depth: 0.9 });
    onSave.mockClear();
    type("depth", "12");
    expect(onSave).not.toHaveBeenCalled();
    expect(input("depth").value).toBe("12");
    expect(host.querySelector("[role=alert]")?.textContent).toContain("0.3 to 3");
  });

  it("tells not known from no", () => {
    expect(input<HTMLSelectElement>("guarded").value).toBe("");
    pick("guarded", "false");
    expect(onSave).toHaveBeenLastCalledWith({ guarded: false });
    pick("guarded", "");
    expect(onSave).toHaveBeenLastCalledWith({ guarded: null });
  });

  it("gives a choice back as the server means it: text as text, numbers as numbers", () => {
    pick("location", "pool");
    expect(onSave).toHaveBeenLastCalledWith({ location: "pool" });
    pick("location", "");
    expect(onSave).toHaveBeenLastCalledWith({ location: "" });
    pick("phases", "3");
    expect(onSave).toHaveBeenLastCalledWith({ phases: 3 });
    act(() => input("polystyrene").click());
    expect(onSave).toHaveBeenLastCalledWith({ polystyrene: true });
  });
});
