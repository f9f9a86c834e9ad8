// @vitest-environment jsdom
import { act, cleanup, fireEvent, render, screen, waitFor } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { afterEach, describe, expect, it, vi } from "vitest";
import { useDraft } from "./draft";
import { TextEditor } from "./editors";
import { Sentence, Sentences, useWords, type Words } from "./sentence";
import { Opening, View } from "./view";
import { Word } from "./word";

let words: Words;
function Take() {
  words = useWords();
  return null;
}
const save = vi.fn();

function Page({ gone = false }: { gone?: boolean }) {
  const word = (label: string, missing = false) => (
    <Word label={label} id={`id-${label}`} text={label} missing={missing}>
      {(e) => <TextEditor {...e} label={`edit ${label}`} value="" onSave={(v) => save(label, v)} />}
    </Word>
  );
  return (
    <Sentences>
      <Take />
      <Sentence id="one">
        {word("name")} {word("load")} {!gone && word("cable", true)}
      </Sentence>
      <Sentence id="two">
        {word("length")} {word("place", true)}
      </Sentence>
    </Sentences>
  );
}
const focused = () => (document.activeElement as HTMLElement).dataset.word;

describe("the words of a view", () => {
  afterEach(cleanup);

  it("go on to the next that is missing and open it, over sentences", async () => {
    render(<Page />);
    await userEvent.click(screen.getByRole("button", { name: "name: name" }));
    await userEvent.keyboard("x{Enter}");
    expect(save).toHaveBeenLastCalledWith("name", "x");
    expect(await screen.findByLabelText("edit cable")).toBeTruthy();
    await userEvent.keyboard("y{Enter}");
    expect(await screen.findByLabelText("edit place")).toBeTruthy();
  });

  it("take what is typed before the next editor is there, whole, and lose no Enter", async () => {
    render(<Page />);
    save.mockClear();
    const command = vi.fn();
    window.addEventListener("keydown", command);
    await userEvent.click(screen.getByRole("button", { name: "name: name" }));
    command.mockClear();
    const press = (key: string) => fireEvent.keyDown(document.activeElement ?? document.body, { key });
    fireEvent.change(screen.getByLabelText("edit name"), { target: { value: "x" } });
    fireEvent.submit(screen.getByLabelText("edit name").closest("form") as HTMLFormElement);
    // Nothing was drawn meanwhile. The first Enter is one too many; of the word for the cable a letter is taken back.
    for (const key of ["Enter", "1", "0", "0", "Backspace", "Enter", "d"]) press(key);
    const place = (await screen.findByLabelText("edit place")) as HTMLInputElement;
    await waitFor(() => expect(place.value).toBe("d"));
    expect(save.mock.calls).toEqual([
      ["name", "x"],
      ["cable", "10"],
    ]);
    expect(command.mock.calls.map(([e]) => e.key)).toEqual(["Enter"]);
    await userEvent.keyboard("uct{Enter}");
    expect(save).toHaveBeenLastCalledWith("place", "duct");
    window.removeEventListener("keydown", command);
  });

  it("hold nothing once the next has the focus, and let go on Escape", async () => {
    render(<Page />);
    await userEvent.click(screen.getByRole("button", { name: "place: place" }));
    fireEvent.submit(screen.getByLabelText("edit place").closest("form") as HTMLFormElement);
    fireEvent.keyDown(document.body, { key: "q" });
    fireEvent.keyDown(document.body, { key: "Escape" });
    await waitFor(() => expect(focused()).toBe("place"));
    expect(screen.queryByLabelText("edit place")).toBeNull();
    const command = vi.fn();
    window.addEventListener("keydown", command);
    fireEvent.keyDown(document.body, { key: "i" });
    expect(command).toHaveBeenCalledOnce();
    window.removeEventListener("keydown", command);
  });

  it("go on to the word that follows where none is missing behind, and stay at the last", async () => {
    render(<Page />);
    await userEvent.click(screen.getByRole("button", { name: "place: place" }));
    await userEvent.keyboard("z{Enter}");
    expect(focused()).toBe("place");
  });

  it("are found by their label, by the name an address has for them, and by what is missing", () => {
    render(<Page />);
    act(() => void words.focus("load"));
    expect(focused()).toBe("load");
    act(() => expect(words.focus("id-length")).toBe(true));
    expect(focused()).toBe("length");
    expect(words.focus("nothing")).toBe(false);
    act(() => words.focusMissing());
    expect(focused()).toBe("cable");
  });

  it("forget a word that is no longer there", () => {
    const page = render(<Page />);
    page.rerender(<Page gone />);
    act(() => words.focusMissing());
    expect(focused()).toBe("place");
  });

  it("take a letter typed on them as the beginning of what is entered; Escape leaves all as it was", async () => {
    render(<Page />);
    save.mockClear();
    act(() => void words.focus("load"));
    await userEvent.keyboard("9");
    expect((screen.getByLabelText("edit load") as HTMLInputElement).value).toBe("9");
    await userEvent.keyboard("{Escape}");
    expect(focused()).toBe("load");
    expect(save).not.toHaveBeenCalled();
    act(() => words.open("name"));
    expect(screen.getByLabelText("edit name")).toBeTruthy();
  });
});

function Field({ saved }: { saved: string }) {
  const draft = useDraft(saved);
  return <input aria-label="field" value={draft.text} {...draft.events} onBlur={draft.leave} />;
}

describe("a field while others edit", () => {
  afterEach(cleanup);
  const field = () => screen.getByLabelText("field") as HTMLInputElement;

  it("shows what is saved elsewhere at once, where nobody types in it", () => {
    const page = render(<Field saved="1" />);
    page.rerender(<Field saved="2" />);
    expect(field().value).toBe("2");
  });

  it("never takes what is being typed away", async () => {
    const page = render(<Field saved="1" />);
    await userEvent.click(field());
    await userEvent.keyboard("5");
    page.rerender(<Field saved="9" />);
    expect(field().value).toBe("15");
    expect(document.activeElement).toBe(field());
  });
});

describe("a view that breaks", () => {
  afterEach(cleanup);

  it("says so in its place, keeps the rest, and can be drawn again", async () => {
    vi.spyOn(console, "error").mockImplementation(() => {});
    let broken = true;
    const Fragile = () => {
      if (broken) throw new Error("torn");
      return <p>whole</p>;
    };
    render(
      <>
        <p>around</p>
        <View name="the drawing">
          <Fragile />
        </View>
      </>,
    );
    expect(screen.getByRole("alert").textContent).toContain("Page failed: the drawing");
    expect(screen.getByRole("alert").textContent).toContain("torn");
    expect(screen.getByText("around")).toBeTruthy();
    broken = false;
    await userEvent.click(screen.getByRole("button", { name: "try again" }));
    expect(screen.getByText("whole")).toBeTruthy();
  });

  it("opens with words, and says its trouble with a way on", async () => {
    const again = vi.fn();
    const page = render(<Opening />);
    expect(screen.getByText("Opening …")).toBeTruthy();
    page.rerender(<Opening trouble="no answer" again={again} />);
    await userEvent.click(screen.getByRole("button", { name: "try again" }));
    expect(screen.getByRole("alert").textContent).toContain("no answer");
    expect(again).toHaveBeenCalled();
  });
});
