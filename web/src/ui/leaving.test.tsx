// @vitest-environment jsdom
import { cleanup, render, screen, waitFor } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";
import { ComboEditor, containing, NumberEditor, NumberField, TextEditor } from "./editors";
import { Sentence, Sentences } from "./sentence";
import { Word } from "./word";

const save = vi.fn();
const LIMITS = { lo: 0, hi: 100, unit: "m" };
const PLACES = containing([
  { value: "a", text: "over a ceiling" },
  { value: "b", text: "under a floor" },
]);

function Page({ gone = false }: { gone?: boolean }) {
  return (
    <Sentences>
      <button type="button">elsewhere</button>
      <Sentence id="one">
        {!gone && (
          <Word label="name" text="name">
            {(e) => <TextEditor {...e} label="edit name" value="old" onSave={save} />}
          </Word>
        )}
        <Word label="length" text="length">
          {(e) => <NumberEditor {...e} label="edit length" value={5} limits={LIMITS} onSave={save} />}
        </Word>
        <Word label="place" text="place">
          {(e) => <ComboEditor {...e} label="edit place" options={PLACES} onSave={save} />}
        </Word>
      </Sentence>
      <NumberField label="beside" value={7} limits={LIMITS} onSave={save} />
    </Sentences>
  );
}

const open = async (word: string) => userEvent.click(screen.getByRole("button", { name: new RegExp(`^${word}:`) }));
const elsewhere = async () => userEvent.click(screen.getByRole("button", { name: "elsewhere" }));

/** One rule for every field: leaving it saves, Escape restores, and what cannot be saved stays there with the reason. */
describe("what is typed and not confirmed", () => {
  beforeEach(() => save.mockReset());
  afterEach(cleanup);

  it.each([
    ["name", "new", "new"],
    ["length", "12.5", 12.5],
    ["place", "under", "b"],
    ["place", "Over a Ceiling", "a"],
  ])("is saved when %s is left with %s", async (word, text, value) => {
    render(<Page />);
    await open(word);
    const field = await screen.findByLabelText(`edit ${word}`, { selector: "input" });
    await userEvent.clear(field);
    await userEvent.type(field, text);
    await elsewhere();
    expect(save).toHaveBeenCalledExactlyOnceWith(value);
    expect(screen.queryByLabelText(`edit ${word}`)).toBeNull();
  });

  it("does not take the focus back from whoever has gone elsewhere", async () => {
    render(<Page />);
    await open("name");
    await elsewhere();
    await new Promise((done) => setTimeout(done, 50));
    expect(document.activeElement?.textContent).toBe("elsewhere");
    await open("name");
    await userEvent.keyboard("{Escape}");
    await waitFor(() => expect(document.activeElement?.getAttribute("data-word")).toBe("name"));
  });

  it.each(["name", "length", "place"])("is as it was after Escape in %s", async (word) => {
    render(<Page />);
    await open(word);
    await userEvent.keyboard("3{Escape}");
    await elsewhere();
    expect(save).not.toHaveBeenCalled();
    expect(screen.queryByLabelText(`edit ${word}`)).toBeNull();
  });

  it("stays with the reason where it is refused", async () => {
    render(<Page />);
    await open("length");
    await userEvent.keyboard("500");
    await elsewhere();
    expect(save).not.toHaveBeenCalled();
    expect(screen.getByLabelText("edit length")).toHaveProperty("value", "500");
    expect(screen.getByRole("alert").textContent).toContain("100");
  });

  it("stays where it could mean several things, and is never guessed", async () => {
    render(<Page />);
    await open("place");
    await userEvent.keyboard("o");
    await elsewhere();
    expect(save).not.toHaveBeenCalled();
    expect(screen.getByRole("alert").textContent).toContain(
      "Several match: choose one, or press Esc to leave it as it was",
    );
  });

  it("changes nothing where nothing was typed", async () => {
    render(<Page />);
    for (const word of ["name", "length", "place"]) {
      await open(word);
      await elsewhere();
    }
    expect(save).not.toHaveBeenCalled();
  });

  it("is saved when the view changes under it", async () => {
    const { rerender } = render(<Page />);
    await open("name");
    await userEvent.keyboard("x");
    rerender(<Page gone />);
    expect(save).toHaveBeenCalledExactlyOnceWith("x");
  });

  it("follows the same rule in a field that stands open", async () => {
    render(<Page />);
    const field = screen.getByLabelText("beside");
    await userEvent.clear(field);
    await userEvent.type(field, "9");
    await elsewhere();
    expect(save).toHaveBeenCalledExactlyOnceWith(9);
    await userEvent.clear(field);
    await userEvent.type(field, "500{Escape}");
    expect(field).toHaveProperty("value", "7");
    await elsewhere();
    expect(save).toHaveBeenCalledOnce();
  });
});
