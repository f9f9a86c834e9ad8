import { useRef } from "react";

interface FieldProps {
  label: string;
  text: string;
  onText: (text: string) => void;
  onLeave: (how: "down" | "right" | "left" | "drop" | "blur") => void;
}

/** A cell that is being typed into. */
export function CellField({ label, text, onText, onLeave }: FieldProps) {
  const left = useRef(false);
  const leave = (how: Parameters<FieldProps["onLeave"]>[0]) => {
    if (left.current) return;
    left.current = true;
    onLeave(how);
  };
  return (
    // biome-ignore lint/a11y/useFocusableInteractive: the field in it has the focus
    <div role="gridcell" className="bg-lit">
      <input
        // biome-ignore lint/a11y/noAutofocus: the cell was opened to type here
        autoFocus
        aria-label={label}
        className="w-full border-2 border-copper bg-paper px-1 py-0.5 text-ink"
        autoComplete="off"
        spellCheck={false}
        value={text}
        onChange={(event) => onText(event.target.value)}
        onBlur={() => leave("blur")}
        onKeyDown={(event) => {
          const how =
            event.key === "Enter"
              ? "down"
              : event.key === "Tab"
                ? event.shiftKey
                  ? "left"
                  : "right"
                : event.key === "Escape"
                  ? "drop"
                  : null;
          if (!how) return;
          event.preventDefault();
          event.stopPropagation();
          leave(how);
        }}
      />
    </div>
  );
}
