import { Popover } from "radix-ui";
import { type KeyboardEvent, type ReactNode, useEffect, useRef, useState } from "react";
import { ahead } from "./ahead";
import { remembered } from "./remembered";
import { useRegistered, useWords } from "./sentence";

export interface EditorProps {
  /** What was typed on the word to open it. */
  typed: string;
  /** Close and go back to the word. */
  close: () => void;
  /** Close and go on to the next word. */
  next: () => void;
  /**
   * Say what is done with what was typed when somebody goes elsewhere without confirming it: save it and answer true, or answer false where it
   * cannot be saved, and say why. Escape leaves everything as it was.
   */
  onLeave?: (save: () => boolean) => void;
}

interface Props {
  label: string;
  text: string;
  missing?: boolean;
  assumed?: boolean;
  bad?: boolean;
  wide?: boolean;
  id?: string;
  /** Marks that stand against the word: no line begins or ends with one of them. */
  before?: string;
  after?: string;
  children: (editor: EditorProps) => ReactNode;
}

/** A word of a sentence that is an input: it opens in place, takes typing at once, and Enter goes on to the next. */
export function Word({ label, text, missing, assumed, bad, wide, id, before, after, children }: Props) {
  const [open, setOpen] = useState(false);
  const [typed, setTyped] = useState("");
  const trigger = useRef<HTMLButtonElement>(null);
  const leaving = useRef<"stay" | "next">("stay");
  const unsaved = useRef<(() => boolean) | null>(null);
  // The view may change under an open word: what was typed in it is saved then, too.
  useEffect(() => () => void unsaved.current?.(), []);
  const words = useWords();
  const show = () => {
    setTyped("");
    leaving.current = "stay";
    setOpen(true);
  };
  const word = useRegistered({ label, id, element: trigger, missing: () => missing === true, open: show });

  const onKeyDown = (event: KeyboardEvent) => {
    if (event.key.length !== 1 || event.key === " " || event.ctrlKey || event.metaKey || event.altKey || open) return;
    event.preventDefault();
    event.stopPropagation();
    // Who types fast has the next key down before the editor has the focus.
    ahead.hold(true);
    setTyped(event.key);
    setOpen(true);
  };
  const leave = (how: "stay" | "next") => () => {
    leaving.current = how;
    unsaved.current = null;
    if (how === "next") ahead.hold();
    setOpen(false);
  };

  const register = (save: () => boolean) => {
    unsaved.current = save;
  };

  return (
    <Popover.Root
      open={open}
      onOpenChange={(now) => {
        leaving.current = "stay";
        unsaved.current = null;
        if (now) show();
        else setOpen(false);
      }}
    >
      <span className="whitespace-nowrap">
        {before}
        <Popover.Trigger asChild>
          <button
            ref={trigger}
            type="button"
            data-word={label}
            data-missing={missing || undefined}
            id={id}
            aria-label={`${label}: ${text}${assumed ? ", assumed" : ""}${bad ? ", needs correcting" : ""}`}
            className={`word max-w-[calc(100%-0.5em)] whitespace-normal ${assumed ? "hatch" : ""} ${bad ? "text-short" : ""}`}
            onKeyDown={onKeyDown}
          >
            {text}
          </button>
        </Popover.Trigger>
        {after}
      </span>
      <Popover.Portal>
        <Popover.Content
          align="start"
          sideOffset={6}
          collisionPadding={12}
          aria-label={label}
          className={`z-20 rounded-sm border border-hair bg-paper p-3 text-ink shadow-float ${wide ? "w-[26rem]" : "w-72"} max-w-[calc(100vw-2rem)] max-h-[min(70vh,var(--radix-popover-content-available-height))] overflow-auto`}
          onInteractOutside={(event) => {
            if (unsaved.current && !unsaved.current()) event.preventDefault();
          }}
          onCloseAutoFocus={(event) => {
            event.preventDefault();
            if (leaving.current === "next") words.goOn(word);
            // Whoever has gone elsewhere while it closed stays there.
            else if (nowhere()) trigger.current?.focus();
          }}
        >
          {open && children({ typed, close: leave("stay"), next: leave("next"), onLeave: register })}
          {open && <Hint />}
          {open && <TypedAhead />}
        </Popover.Content>
      </Popover.Portal>
    </Popover.Root>
  );
}

/** Whether nothing has the focus: what had it is gone. */
function nowhere(): boolean {
  return document.activeElement === null || document.activeElement === document.body;
}

const HINTS_KEY = "mellow-span/word-hints";
/** So many words are opened with the hint below them; whoever has done it that often knows. */
const HINTED = 6;

/** What the keys do in an open word, while it is new to somebody. */
function Hint() {
  const [shown] = useState(() => count.seen() < HINTED);
  useEffect(() => count.one(), []);
  if (!shown) return null;
  return (
    <p className="mt-2 text-faded max-sm:hidden" data-hint>
      <kbd className="key">Enter</kbd> saves and goes to the next word, <kbd className="key">Esc</kbd> leaves it as it
      was.
    </p>
  );
}

/** How often a word was opened in this browser. */
const count = {
  seen: () => Number(remembered.get(HINTS_KEY) ?? 0),
  one: () => {
    const seen = count.seen();
    if (seen < HINTED) remembered.set(HINTS_KEY, String(seen + 1));
  },
};

/** Stands behind an editor: once that is there, it gets what was typed for it while it was on its way. */
function TypedAhead() {
  useEffect(() => ahead.type(), []);
  return null;
}
