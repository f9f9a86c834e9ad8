import { useState } from "react";
import { Sheet } from "../ui/controls";
import { letterKeys } from "../ui/keys";

const KEYS: [string, string][] = [
  ["Ctrl K", "everything by its name: circuit, view, table, clause, command (Cmd on a Mac); / does the same"],
  ["n", "new circuit on this board: said in one line, or word by word"],
  ["e", "go to the sentence of the circuit; then Tab, or just type"],
  ["Enter", "take what is typed and go on to the next word"],
  ["o", "ways out, where the circuit is short"],
  ["z", "size it: the smallest cable that passes"],
  ["a  s", "add a span, split it"],
  ["[  ]", "span before, span after"],
  [",  .", "move the span towards the board, or away"],
  ["Alt ↑  Alt ↓", "move a circuit in the tree"],
  ["Delete", "remove the circuit chosen in the tree"],
  ["Ctrl Z  Ctrl ⇧ Z", "take my last edit back, do it again (Cmd on a Mac)"],
  ["h", "history: every edit in words, and back to any version"],
  ["w", "show or hide the working"],
  ["g", "attention list"],
  ["i", "survey: the intake, and what assuming costs"],
  ["d", "demand, by room, board and phase"],
  ["b", "boards: their ways as a grid"],
  ["r", "routes: what lies together, and what trying something does"],
  ["t", "earthing and outbuildings"],
  ["c", "coordination: which device opens first"],
  ["q", "what if: copies with changes, side by side"],
  ["Esc", "on a word: letters are commands again"],
  ["?", "this list"],
];

export function KeyList({ open, onOpenChange }: { open: boolean; onOpenChange: (open: boolean) => void }) {
  const [on, setOn] = useState(letterKeys.on);
  return (
    <Sheet open={open} onOpenChange={onOpenChange} title="Keys" say="Everything can be done from the keyboard.">
      <dl className="mt-3 grid grid-cols-[9rem_1fr] gap-y-1.5">
        {KEYS.map(([key, what]) => (
          <div key={key} className="contents">
            <dt>
              <kbd className="key">{key}</kbd>
            </dt>
            <dd>{what}</dd>
          </div>
        ))}
      </dl>
      <label className="mt-4 flex items-center gap-2 border-hair border-t pt-3">
        <input
          type="checkbox"
          checked={on}
          onChange={(event) => {
            setOn(event.target.checked);
            letterKeys.set(event.target.checked);
          }}
        />
        single letters act as commands
      </label>
    </Sheet>
  );
}
