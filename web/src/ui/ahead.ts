import { flushSync } from "react-dom";

/** What is held when the next editor never opens is let go of after this, in milliseconds. */
const LONGEST = 3000;

/**
 * What is typed between one word of a sentence and the next. Enter closes one editor and opens the next only after the page was drawn again; who
 * types on meanwhile would type commands of the page. These keys are held, and typed into the next editor when it is there.
 */
class Ahead {
  private keys: string[] = [];
  private holding = false;
  /** What was held is being typed: these keys are not to be held again. */
  private typing = false;
  /** The next editor opens with something typed already: an Enter is one of it. */
  private begun = false;
  private timer: ReturnType<typeof setTimeout> | undefined;

  /** Begin to hold: an editor closes, the next one is on its way; or one opens by a key typed on its word (begun), and has not got the focus yet. */
  hold(begun = false) {
    this.begun = begun;
    clearTimeout(this.timer);
    this.timer = setTimeout(this.letGo, LONGEST);
    if (this.holding) return;
    this.holding = true;
    window.addEventListener("keydown", this.onKeyDown, true);
    window.addEventListener("pointerdown", this.letGo, true);
  }

  /** Whether something was typed that still needs an editor. */
  get waits() {
    return this.keys.length > 0;
  }

  /** Type what was held into the field that has the focus; Enter in it goes on, and what follows is for the editor after it. */
  type() {
    if (!this.holding) return;
    // After what draws the editor, so that each key is drawn before the one that follows.
    setTimeout(() => {
      const field = document.activeElement;
      while (field instanceof HTMLInputElement && field.isConnected && this.keys.length > 0) {
        const key = this.keys.shift() as string;
        this.typing = true;
        try {
          flushSync(() => (key === "Enter" ? enter(field) : insert(field, key)));
        } finally {
          this.typing = false;
        }
      }
      // Where the last Enter closed this editor, the keys are held for the next one.
      if (!(field instanceof HTMLInputElement) || field.isConnected) this.letGo();
    });
  }

  letGo = () => {
    clearTimeout(this.timer);
    this.keys = [];
    this.holding = false;
    window.removeEventListener("keydown", this.onKeyDown, true);
    window.removeEventListener("pointerdown", this.letGo, true);
  };

  private onKeyDown = (event: KeyboardEvent) => {
    if (this.typing || event.ctrlKey || event.metaKey || event.altKey) return;
    if (event.key === "Escape" || event.key === "Tab") {
      this.letGo();
      return;
    }
    const typed = this.keys.length > 0 ? this.keys.at(-1) !== "Enter" : this.begun;
    if (event.key === "Backspace" && this.keys.length > 0 && typed) this.keys.pop();
    // An Enter with nothing before it is the last one, pressed twice: in the next editor it would take what nobody chose.
    else if (event.key === "Enter" ? typed : event.key.length === 1) this.keys.push(event.key);
    else if (event.key !== "Enter" && event.key !== "Backspace") return;
    event.preventDefault();
    event.stopImmediatePropagation();
  };
}

/** Put a key into a field as if it were typed there, over what is selected. */
function insert(field: HTMLInputElement, key: string) {
  const at = field.selectionStart ?? field.value.length;
  const to = field.selectionEnd ?? at;
  // A field whose value is drawn notices a change by the setter of its kind alone.
  const put = Object.getOwnPropertyDescriptor(HTMLInputElement.prototype, "value")?.set;
  put?.call(field, field.value.slice(0, at) + key + field.value.slice(to));
  field.setSelectionRange(at + key.length, at + key.length);
  field.dispatchEvent(new InputEvent("input", { bubbles: true, data: key, inputType: "insertText" }));
}

/** Enter in a field: what the field does with it, else its form is sent. */
function enter(field: HTMLInputElement) {
  const taken = !field.dispatchEvent(new KeyboardEvent("keydown", { key: "Enter", bubbles: true, cancelable: true }));
  if (!taken) field.form?.requestSubmit();
}

export const ahead = new Ahead();
