import { type DragEvent, type KeyboardEvent, useState } from "react";
import type { Board, Circuit, CircuitSummary } from "../api/types";
import { change, useJob, useStore } from "../state/job-context";
import { percent } from "../ui/quantity";
import { Mark } from "../ui/verdict";

interface Props {
  here: string | null;
  view: "attention" | "intake" | "whole" | "circuit" | "tables";
  onAttention: () => void;
  onIntake: () => void;
  onWhole: () => void;
  onCircuit: (id: string) => void;
  onAdd: (board: string) => void;
  onRemove: (circuit: Circuit) => void;
}

/** The installation as a tree: supply, boards, circuits, each circuit with its mark and margin. */
export function Tree(props: Props) {
  const { inputs, state } = useJob();
  if (!inputs || !state) return <p className="p-4 text-faded">Opening …</p>;
  const needing = state.attention.filter((a) => a.level !== "assumed").length;
  return (
    <nav aria-label="Installation" className="flex flex-col gap-1 p-3">
      <TopLink on={props.view === "attention"} onClick={props.onAttention} note={needing > 0 ? String(needing) : ""}>
        Attention
      </TopLink>
      <TopLink on={props.view === "intake"} onClick={props.onIntake} note={inputs.supply.earthing ?? ""}>
        Intake
      </TopLink>
      <TopLink on={props.view === "whole"} onClick={props.onWhole} note="">
        Whole job
      </TopLink>
      {inputs.boards.map((board) => (
        <BoardBranch
          key={board.id}
          board={board}
          circuits={inputs.circuits.filter((c) => c.board === board.id)}
          summaries={state.summaries}
          {...props}
        />
      ))}
    </nav>
  );
}

function TopLink({
  on,
  note,
  onClick,
  children,
}: {
  on: boolean;
  note: string;
  onClick: () => void;
  children: React.ReactNode;
}) {
  return (
    <button
      type="button"
      aria-current={on ? "page" : undefined}
      className="flex min-h-8 items-baseline justify-between border-copper px-2 py-1 text-left hover:bg-lit aria-[current]:border-l-4 aria-[current]:bg-leaf"
      onClick={onClick}
    >
      {children} <span className="figure text-faded">{note}</span>
    </button>
  );
}

type BranchProps = Props & { board: Board; circuits: Circuit[]; summaries: readonly CircuitSummary[] };

function BoardBranch({ board, circuits, summaries, here, onCircuit, onAdd, onRemove }: BranchProps) {
  const store = useStore();
  const [over, setOver] = useState<number | null>(null);
  const place = (id: string, index: number) => store.edit([change("move", "circuit", id, { index, parent: board.id })]);
  const onKeyDown = (circuit: Circuit, at: number) => (event: KeyboardEvent<HTMLElement>) => {
    const step = event.key === "ArrowDown" ? 1 : event.key === "ArrowUp" ? -1 : 0;
    if (event.key === "Delete") onRemove(circuit);
    if (step === 0) return;
    event.preventDefault();
    if (event.altKey) {
      if (at + step >= 0 && at + step < circuits.length) place(circuit.id, at + step);
      return;
    }
    const rows = [...document.querySelectorAll<HTMLElement>("[data-circuit]")];
    rows[rows.indexOf(event.currentTarget) + step]?.focus();
  };
  const onDrop = (index: number) => (event: DragEvent) => {
    event.preventDefault();
    setOver(null);
    const id = event.dataTransfer.getData("text/plain");
    const from = circuits.findIndex((c) => c.id === id);
    if (id) place(id, from >= 0 && from < index ? index - 1 : index);
  };
  return (
    <section aria-label={board.name || "Unnamed board"} className="mt-3">
      <h2 className="flex items-baseline justify-between border-hair border-b px-2 pb-1 font-semibold">
        {board.name || "Unnamed board"}
        <span className="figure font-normal text-faded">
          {circuits.length}
          {board.ways !== null && `/${board.ways}`}
        </span>
      </h2>
      <ul>
        {circuits.map((circuit, i) => (
          <li
            key={circuit.id}
            className={over === i ? "border-copper border-t-2" : ""}
            onDragOver={(event) => {
              event.preventDefault();
              setOver(i);
            }}
            onDragLeave={() => setOver(null)}
            onDrop={onDrop(i)}
          >
            <CircuitRow
              circuit={circuit}
              summary={summaries.find((s) => s.id === circuit.id)}
              on={here === circuit.id}
              onOpen={() => onCircuit(circuit.id)}
              onKeyDown={onKeyDown(circuit, i)}
            />
          </li>
        ))}
      </ul>
      <button
        type="button"
        className="mt-1 min-h-8 px-2 text-left text-faded hover:bg-lit"
        onClick={() => onAdd(board.id)}
        onDragOver={(event) => event.preventDefault()}
        onDrop={onDrop(circuits.length)}
      >
        new circuit <kbd className="key">n</kbd>
      </button>
    </section>
  );
}

interface RowProps {
  circuit: Circuit;
  summary: CircuitSummary | undefined;
  on: boolean;
  onOpen: () => void;
  onKeyDown: (event: KeyboardEvent<HTMLElement>) => void;
}

function CircuitRow({ circuit, summary, on, onOpen, onKeyDown }: RowProps) {
  const verdict = summary?.verdict ?? "not_known";
  const margin = summary?.margin ?? null;
  const name = circuit.name || "Unnamed circuit";
  return (
    <button
      type="button"
      data-circuit={circuit.id}
      draggable
      title={name}
      onDragStart={(event) => event.dataTransfer.setData("text/plain", circuit.id)}
      aria-current={on ? "page" : undefined}
      aria-keyshortcuts="Alt+ArrowUp Alt+ArrowDown Delete"
      className="grid min-h-8 w-full grid-cols-[1fr_auto_3.4rem] items-center gap-x-2 border-copper px-2 py-1 text-left hover:bg-lit aria-[current]:border-l-4 aria-[current]:bg-leaf"
      onClick={onOpen}
      onKeyDown={onKeyDown}
    >
      <span className="truncate">{name}</span>
      <Mark verdict={verdict} />
      <span className="figure text-right text-faded">
        {margin === null || verdict === "not_known" || (verdict === "short" && margin >= 0) ? "" : percent(margin)}
      </span>
    </button>
  );
}
