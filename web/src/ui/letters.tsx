import { useEffect, useState } from "react";
import { letterKeys } from "./keys";

const onWord = () => document.activeElement?.matches("[data-word]") === true;

/**
 * Which of the two holds: on a word of a sentence a letter opens the word, everywhere else it is a command. Escape on a word gives the
 * letters back to the commands.
 */
export function Letters() {
  const [word, setWord] = useState(onWord);
  useEffect(() => {
    const look = () => setWord(onWord());
    const onKeyDown = (event: KeyboardEvent) => {
      if (event.key !== "Escape" || event.defaultPrevented || !onWord()) return;
      // The reading stays where it is; only the letters change hands.
      (document.activeElement as HTMLElement).closest<HTMLElement>("main, [tabindex]")?.focus({ preventScroll: true });
      if (onWord()) (document.activeElement as HTMLElement).blur();
      look();
    };
    document.addEventListener("focusin", look);
    document.addEventListener("focusout", look);
    document.addEventListener("keydown", onKeyDown);
    return () => {
      document.removeEventListener("focusin", look);
      document.removeEventListener("focusout", look);
      document.removeEventListener("keydown", onKeyDown);
    };
  }, []);
  if (!letterKeys.on()) return null;
  return (
    <span
      className="whitespace-nowrap text-faded max-lg:hidden"
      role="status"
      data-letters={word ? "word" : "commands"}
    >
      {word ? (
        <>
          letter keys edit the word · <kbd className="key">Esc</kbd> commands
        </>
      ) : (
        <>
          letter keys give commands · <kbd className="key">e</kbd> edit
        </>
      )}
    </span>
  );
}
