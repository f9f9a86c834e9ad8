import { type ChangeEvent, type KeyboardEvent, useEffect, useRef, useState } from "react";

/**
 * What stands in a field: the value as it is saved, and while somebody types there, what they type. A value that changes elsewhere shows at
 * once in a field that nobody is in, and never takes what is being typed away.
 */
export function useDraft(saved: string) {
  const [text, setText] = useState(saved);
  const inside = useRef(false);
  useEffect(() => {
    if (!inside.current) setText(saved);
  }, [saved]);
  return {
    text,
    setText,
    leave: () => {
      inside.current = false;
    },
    events: {
      onFocus: () => {
        inside.current = true;
      },
      onChange: (event: ChangeEvent<HTMLInputElement | HTMLTextAreaElement>) => setText(event.target.value),
      /** Escape restores what was there; leaving the field saves. */
      onKeyDown: (event: KeyboardEvent) => {
        if (event.key !== "Escape") return;
        event.stopPropagation();
        setText(saved);
      },
    },
  };
}
