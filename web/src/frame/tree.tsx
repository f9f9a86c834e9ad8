import { RovingFocus } from "radix-ui/internal";
import { type DragEvent, type KeyboardEvent, useState } from "react";
import { Link, NavLink } from "react-router";
import type { Board, Circuit, CircuitSummary } from "../api/types";
import { usePaths } from "../parts/paths";
import { change, useJob, useStore } from "../sync/job-context";
import { percent } from "../ui/quantity";
import { Mark } from "../ui/verdict";

interface Props {
  here: string | null;
  onAdd: (board: string) => void;
  onRemove: (circuit: Circuit) => void;
}

/** The installation as a tree: supply, boards, circuits, each circuit with its mark and margin. Arrows walk the circuits. */
export function Tree(props: Props) {
  const { inputs, state } = useJob();
  const paths = usePaths();
  if (!inputs || !state) return <p className="p-4 text-faded">Opening …</p>;
  const needing = state.attention.filter((a) => a.level !== "assumed").length;
  return (
    <nav aria-label="Installation" className="flex flex-col gap-1 p-3">
      <TopLink to={paths.attention} end note={needing > 0 ? String(needing) : ""}>
        Attention
      </TopLink>
      <TopLink to={paths.intake()} note={inputs.supply.earthing ?? ""}>
        Intake
      </TopLink>
      <TopLink to={paths.whole()} note="">
        Whole job
      </TopLink>
      <TopLink to={paths.routes()} note={inputs.routes.length > 0 ? String(inputs.routes.length) : ""}>
        Routes
      </TopLink>
      <RovingFocus.Root orientation="vertical">
        {inputs.boards.map((board) => (
          <BoardBranch
            key={board.id}
            board={board}
            circuits={inputs.circuits.filter((c) => c.board === board.id)}
            summaries={state.summaries}
            {...props}
          />
        ))}
      </RovingFocus.Root>
    </nav>
  );
}

function TopLink({ to, end, note, children }: { to: string; end?: boolean; note: string; children: React.ReactNode }) {
  return (
    <NavLink
      to={to}
      end={end}
      className="flex min-h-8 items-baseline justify-between border-copper px-2 py-1 text-left hover:bg-lit aria-[current]:border-l-4 aria-[current]:bg-leaf"
    >
      {children} <span className="figure text-faded">{note}</span>
    </NavLink>
  );
}

type BranchProps = Props & { board: Board; circuits: Circuit[]; summaries: readonly CircuitSummary[] };

function BoardBranch({ board, circuits, summaries, here, onAdd, onRemove }: BranchProps) {
  const store = useStore();
  const [over, setOver] = useState<number | null>(null);
  const place = (id: string, index: number) => store.edit([change("move", "circuit", id, { index, parent: board.id })]);
  const onKeyDown = (circuit: Circuit, at: number) => (event: KeyboardEvent<HTMLElement>) => {
    const step = event.key === "ArrowDown" ? 1 : event.key === "ArrowUp" ? -1 : 0;
    if (event.key === "Delete") onRemove(circuit);
    if (step === 0 || !event.altKey) return;
    event.preventDefault();
    if (at + step >= 0 && at + step < circuits.length) place(circuit.id, at + step);
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
  onKeyDown: (event: KeyboardEvent<HTMLElement>) => void;
}

function CircuitRow({ circuit, summary, on, onKeyDown }: RowProps) {
  const verdict = summary?.verdict ?? "not_known";
  const margin = summary?.margin ?? null;
  const name = circuit.name || "Unnamed circuit";
  const paths = usePaths();
  return (
    <RovingFocus.Item asChild active={on}>
      <Link
        to={paths.circuit(circuit.id)}
        data-circuit={circuit.id}
        draggable
        title={name}
        onDragStart={(event) => event.dataTransfer.setData("text/plain", circuit.id)}
        aria-current={on ? "page" : undefined}
        aria-keyshortcuts="Alt+ArrowUp Alt+ArrowDown Delete"
        className="grid min-h-8 w-full grid-cols-[1fr_auto_3.4rem] items-center gap-x-2 border-copper px-2 py-1 text-left hover:bg-lit aria-[current]:border-l-4 aria-[current]:bg-leaf"
        onKeyDown={onKeyDown}
      >
        <span className="truncate">{name}</span>
        <Mark verdict={verdict} />
        <span className="figure text-right text-faded">
          {margin === null || verdict === "not_known" || (verdict === "short" && margin >= 0) ? "" : percent(margin)}
        </span>
      </Link>
    </RovingFocus.Item>
  );
}
