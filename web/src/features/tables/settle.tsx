import { useMutation, useQueryClient } from "@tanstack/react-query";
import { Popover } from "radix-ui";
import { type FormEvent, type ReactNode, useState } from "react";
import { readCell, reopenCell } from "../../api/client";
import { useStore } from "../../sync/job-context";
import { Button } from "../../ui/controls";
import { inputClass } from "../../ui/editors";
import { remembered } from "../../ui/remembered";
import { SETTLE } from "./words";

export interface CellPlace {
  table: string;
  row: string;
  column: string;
}

const EDITION_KEY = "mellow-span/edition";

/** What has been read changes every figure that rests on it: all that was asked is asked again. */
function useSettling(ruleset: string, onDone: () => void) {
  const queries = useQueryClient();
  const store = useStore();
  const done = () => {
    store.again();
    void queries.invalidateQueries();
    onDone();
  };
  const read = useMutation({
    mutationFn: (body: Parameters<typeof readCell>[1]) => readCell(ruleset, body),
    onSuccess: done,
  });
  const reopen = useMutation({ mutationFn: (cell: CellPlace) => reopenCell(ruleset, cell), onSuccess: done });
  return { read, reopen };
}

interface Props {
  ruleset: string;
  cell: CellPlace;
  /** Our value, as it is shown. */
  ours: string;
  /** Who read it, where somebody did. */
  read: string;
  children: ReactNode;
}

/** A doubtful cell that opens to be settled with the printed book in hand: it agrees, or the value that is printed there. */
export function Settle({ ruleset, cell, ours, read, children }: Props) {
  const [open, setOpen] = useState(false);
  return (
    <Popover.Root open={open} onOpenChange={setOpen}>
      <Popover.Trigger asChild>
        <button
          type="button"
          className="word"
          aria-label={`${cell.table}, ${cell.row}, ${cell.column}: ${ours}, ${read || "to be checked against the printed table"}`}
        >
          {children}
        </button>
      </Popover.Trigger>
      <Popover.Portal>
        <Popover.Content
          align="end"
          sideOffset={6}
          collisionPadding={12}
          className="z-20 w-80 max-w-[calc(100vw-2rem)] rounded-sm border border-hair bg-paper p-3 font-sans text-ink shadow-float"
        >
          {open && <SettleForm ruleset={ruleset} cell={cell} ours={ours} read={read} onDone={() => setOpen(false)} />}
        </Popover.Content>
      </Popover.Portal>
    </Popover.Root>
  );
}

function SettleForm({ ruleset, cell, ours, read, onDone }: Omit<Props, "children"> & { onDone: () => void }) {
  const settling = useSettling(ruleset, onDone);
  const [edition, setEdition] = useState(() => remembered.get(EDITION_KEY) ?? "");
  const [printed, setPrinted] = useState("");
  const value = Number(printed.replace(",", "."));
  const wrong = printed !== "" && !(Number.isFinite(value) && value >= 0);
  const keep = (value: number | null) => {
    remembered.set(EDITION_KEY, edition);
    settling.read.mutate({ ...cell, value, edition });
  };
  const onSubmit = (event: FormEvent) => {
    event.preventDefault();
    if (printed !== "" && !wrong && edition.trim()) keep(value);
  };
  const error = settling.read.error ?? settling.reopen.error;
  return (
    <form onSubmit={onSubmit}>
      <p>
        Table {cell.table}, {cell.row}, {cell.column}: <span className="figure">{ours}</span>
      </p>
      {read && <p className="mt-1 text-meets">{read}</p>}
      <label className="mt-2 block text-faded">
        Edition you are checking against
        <input
          className={`${inputClass} mt-1`}
          value={edition}
          onChange={(e) => setEdition(e.target.value)}
          maxLength={200}
        />
      </label>
      <Button className="mt-2" strong disabled={!edition.trim()} onClick={() => keep(null)}>
        {SETTLE.agreesPrintedTable}
      </Button>
      <label className="mt-3 block text-faded">
        or the value printed there
        <input
          className={`${inputClass} mt-1`}
          inputMode="decimal"
          value={printed}
          aria-invalid={wrong}
          onChange={(e) => setPrinted(e.target.value)}
        />
      </label>
      {wrong && <p className="text-short">{SETTLE.needs0More}</p>}
      <div className="mt-2 flex flex-wrap gap-2">
        <Button type="submit" disabled={printed === "" || wrong || !edition.trim()}>
          {SETTLE.usePrintedValue}
        </Button>
        {read && <Button onClick={() => settling.reopen.mutate(cell)}>{SETTLE.markUnchecked}</Button>}
      </div>
      {error && <p className="mt-2 text-short">{error.message}</p>}
      <p className="mt-2 text-faded">{SETTLE.appliesEveryJob}</p>
    </form>
  );
}
