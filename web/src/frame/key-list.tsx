import { useState } from "react";
import { Sheet } from "../ui/controls";
import { letterKeys } from "../ui/keys";
import { KEY_LIST } from "./words";

const KEYS: [string, string][] = [
  ["Ctrl K", "everything by its name: circuit, view, table, clause, command (Cmd on a Mac); / does the same"],
  ["n", "new circuit on this board: in one line, or word by word"],
  ["e", "go to the sentence of the circuit; then Tab, or just type"],
  ["Enter", "accept what is typed and go to the next word"],
  ["o", "fixes, where the circuit fails"],
  ["z", "size it: the smallest cable that meets"],
  ["a  s", "add a span, split it"],
  ["[  ]", "span before, span after"],
  ["x  ⇧ X", "of a run that branches: draw the path to the next end, or to the one that stands worst"],
  [",  .", "move the span towards the board, or away"],
  ["Alt ↑  Alt ↓", "move a circuit in the tree"],
  ["Delete", "remove the circuit chosen in the tree"],
  ["Ctrl Z  Ctrl ⇧ Z", "undo my last change, redo it (Cmd on a Mac)"],
  ["h", "history: every edit in words, and back to any version"],
  ["w", "show or hide the working"],
  ["g", "needs attention"],
  ["i", "survey: the intake, and what is still assumed"],
  ["d", "maximum demand by room, board and phase"],
  ["b", "boards: their ways as a grid"],
  ["r", "cable routes: what is grouped, and the effect of a change"],
  ["t", "earthing and outbuildings"],
  ["c", "selectivity: which device operates first"],
  ["q", "what if: copies with changes, side by side"],
  ["Esc", "on a word: back to command keys"],
  ["?", "this list"],
];

export function KeyList({ open, onOpenChange }: { open: boolean; onOpenChange: (open: boolean) => void }) {
  const [on, setOn] = useState(letterKeys.on);
  return (
    <Sheet open={open} onOpenChange={onOpenChange} title={KEY_LIST.keys} say={KEY_LIST.everythingCanDone}>
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
        letter keys give commands
      </label>
    </Sheet>
  );
}
