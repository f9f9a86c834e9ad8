import { useState } from "react";
import { ReadLine } from "../../parts/read-line";
import { changesOf, useSaid } from "../../parts/use-said";
import { useJob, useStore } from "../../sync/job-context";
import { useTyped } from "../../sync/typed";
import { Button, Sheet } from "../../ui/controls";
import { inputClass } from "../../ui/editors";
import { SAY_SHEET } from "./words";

interface Props {
  /** The board that the circuit starts from; null closes. */
  board: string | null;
  onClose: () => void;
  /** An empty circuit was asked for, to be entered word by word. */
  onEmpty: (board: string) => void;
  /** Circuits were added; the first of them. */
  onAdded: (circuit: string) => void;
}

/** A new circuit, said in one line; or many, one a line, pasted. Left empty it is entered word by word. */
export function SaySheet({ board, ...rest }: Props) {
  return (
    <Sheet
      open={board !== null}
      onOpenChange={(open) => !open && rest.onClose()}
      title={SAY_SHEET.newCircuit}
      say={SAY_SHEET.typeOneLine}
      wide
    >
      {board !== null && <Saying board={board} {...rest} />}
    </Sheet>
  );
}

function Saying({ board, onClose, onEmpty, onAdded }: Props & { board: string }) {
  const store = useStore();
  const { inputs } = useJob();
  const [text, setText] = useTyped(`circuits/${board}`);
  const [waiting, setWaiting] = useState(false);
  const { lines, fresh, error } = useSaid(text, board);
  const good = lines.filter((line) => line.circuit !== null);
  const name = inputs?.boards.find((b) => b.id === board)?.name || "this board";
  const several = text.trim().includes("\n");
  const take = () => {
    const changes = changesOf(lines);
    const first = good[0]?.circuit;
    if (changes.length === 0 || !first) return;
    store.edit(changes);
    setText("");
    onClose();
    onAdded(first);
  };
  // Enter may come before the answer: the line is then taken as soon as it is read.
  if (waiting && fresh) {
    setWaiting(false);
    if (good.length > 0) queueMicrotask(take);
  }
  const submit = () => {
    if (text.trim() === "") {
      onClose();
      onEmpty(board);
    } else if (fresh) take();
    else setWaiting(true);
  };
  return (
    <form
      className="mt-3"
      onSubmit={(event) => {
        event.preventDefault();
        submit();
      }}
    >
      <textarea
        // biome-ignore lint/a11y/noAutofocus: the sheet was opened to type here
        autoFocus
        className={`${inputClass} figure`}
        rows={several ? 8 : 2}
        aria-label={`Circuits of ${name}, one per line`}
        placeholder={SAY_SHEET.shower92kw}
        autoComplete="off"
        spellCheck={false}
        value={text}
        onChange={(event) => {
          setText(event.target.value);
          setWaiting(false);
        }}
        onKeyDown={(event) => {
          if (event.key !== "Enter" || event.shiftKey || (several && !event.ctrlKey && !event.metaKey)) return;
          event.preventDefault();
          submit();
        }}
      />
      {error && <p className="mt-2 text-short">{error.message}</p>}
      <div className="mt-2 max-h-[44vh] overflow-auto" aria-live="polite" aria-busy={!fresh}>
        {lines.map((line, i) => (
          // biome-ignore lint/suspicious/noArrayIndexKey: lines have no identity beyond their order
          <div key={i} className={lines.length > 1 ? "border-hair border-t py-1.5" : ""}>
            <ReadLine said={line} />
          </div>
        ))}
      </div>
      <div className="mt-3 flex flex-wrap items-baseline gap-3">
        <Button type="submit" strong disabled={text.trim() !== "" && fresh && good.length === 0}>
          {text.trim() === "" ? "word by word" : good.length > 1 ? `add ${good.length} circuits` : "add it"}
        </Button>
        <span className="text-faded">
          {several ? SAY_SHEET.ctrlEnterAdds : SAY_SHEET.enterAdds}; fed from {name} unless it names another.
        </span>
      </div>
    </form>
  );
}
