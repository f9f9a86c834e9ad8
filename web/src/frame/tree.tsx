import { RovingFocus } from "radix-ui/internal";
import { type DragEvent, type KeyboardEvent, memo, useCallback, useEffect, useRef, useState } from "react";
import { Link, NavLink } from "react-router";
import type { Board, Circuit, CircuitSummary, Verdict } from "../api/types";
import { usePaths } from "../parts/paths";
import { change, useJob, useStore } from "../sync/job-context";
import { percent } from "../ui/quantity";
import { Mark } from "../ui/verdict";
import { ON_SITE, STEPS } from "./steps";
import { TREE } from "./words";

interface Props {
  here: string | null;
  onAdd: (board: string) => void;
  onRemove: (circuit: Circuit) => void;
}

/** The steps of the work with their marks, then boards and circuits, each circuit with its mark and margin. Arrows walk the circuits. */
export function Tree(props: Props) {
  const { inputs, state } = useJob();
  const paths = usePaths();
  if (!inputs || !state) return <p className="p-4 text-faded">{TREE.opening}</p>;
  const needing = state.attention.filter((a) => a.level !== "assumed" && a.level !== "confirm").length;
  return (
    <nav aria-label={TREE.installation} className="flex flex-col p-3">
      {STEPS.map((step) => (
        <StageLink
          key={step.id}
          to={step.path(paths)}
          end={step.id === "attention"}
          title={step.title}
          letter={step.key}
          verdict={state.steps.find((s) => s.id === step.id)?.verdict ?? null}
          note={step.id === "attention" && needing > 0 ? String(needing) : ""}
        />
      ))}
      <ul aria-label={TREE.site} className="mt-1 grid grid-cols-2 border-hair border-t pt-1">
        {ON_SITE.map((view) => (
          <li key={view.title}>
            <NavLink
              to={view.path(paths)}
              end
              className="flex min-h-8 items-center border-copper px-2 py-0.5 whitespace-nowrap hover:bg-lit aria-[current]:border-l-4 aria-[current]:bg-leaf aria-[current]:pl-1"
            >
              {view.title}
            </NavLink>
          </li>
        ))}
      </ul>
      <p className="mt-3 px-2 text-right text-faded text-sm">{TREE.leastMargin}</p>
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

interface StageProps {
  to: string;
  end: boolean;
  title: string;
  letter: string;
  verdict: Verdict | null;
  note: string;
}

function StageLink({ to, end, title, letter, verdict, note }: StageProps) {
  return (
    <NavLink
      to={to}
      end={end}
      title={letter ? `${title} (${letter})` : title}
      className="grid min-h-8 grid-cols-[1.2rem_1fr_auto] items-center gap-x-1 border-copper px-2 py-0.5 text-left hover:bg-lit aria-[current]:border-l-4 aria-[current]:bg-leaf"
    >
      {verdict ? <Mark verdict={verdict} /> : <span />}
      {title} <span className="figure text-faded">{note}</span>
    </NavLink>
  );
}

type BranchProps = Props & { board: Board; circuits: Circuit[]; summaries: readonly CircuitSummary[] };

function BoardBranch({ board, circuits, summaries, here, onAdd, onRemove }: BranchProps) {
  const store = useStore();
  const paths = usePaths();
  const [over, setOver] = useState<number | null>(null);
  const place = (id: string, index: number) => store.edit([change("move", "circuit", id, { index, parent: board.id })]);
  const onKey = (id: string, event: KeyboardEvent<HTMLElement>) => {
    const at = circuits.findIndex((c) => c.id === id);
    const circuit = circuits[at];
    const step = event.key === "ArrowDown" ? 1 : event.key === "ArrowUp" ? -1 : 0;
    if (event.key === "Delete" && circuit) onRemove(circuit);
    if (step === 0 || !event.altKey) return;
    event.preventDefault();
    if (at + step >= 0 && at + step < circuits.length) place(id, at + step);
  };
  // The rows are drawn anew only where what they show has changed: they are given the same function each time.
  const latest = useRef(onKey);
  useEffect(() => {
    latest.current = onKey;
  });
  const onKeyDown = useCallback((id: string, event: KeyboardEvent<HTMLElement>) => latest.current(id, event), []);
  const onDrop = (index: number) => (event: DragEvent) => {
    event.preventDefault();
    setOver(null);
    const id = event.dataTransfer.getData("text/plain");
    const from = circuits.findIndex((c) => c.id === id);
    if (id) place(id, from >= 0 && from < index ? index - 1 : index);
  };
  return (
    <section aria-label={board.name || "Unnamed board"} className="mt-1 mb-2">
      <h2
        className="border-hair border-b font-semibold"
        onDragOver={(event) => event.preventDefault()}
        onDrop={onDrop(circuits.length)}
      >
        <NavLink
          to={paths.board(board.id)}
          className="flex items-baseline justify-between gap-x-2 border-copper px-2 pb-1 hover:bg-lit aria-[current]:border-l-4 aria-[current]:bg-leaf"
        >
          {board.name || "Unnamed board"}
          <span className="figure font-normal text-faded">
            {circuits.length}
            {board.ways !== null && `/${board.ways}`}
          </span>
        </NavLink>
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
              id={circuit.id}
              name={circuit.name || "Unnamed circuit"}
              {...shownOf(summaries.find((s) => s.id === circuit.id))}
              on={here === circuit.id}
              onKeyDown={onKeyDown}
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
  id: string;
  name: string;
  verdict: Verdict;
  margin: string;
  on: boolean;
  onKeyDown: (id: string, event: KeyboardEvent<HTMLElement>) => void;
}

function shownOf(summary: CircuitSummary | undefined) {
  const verdict = summary?.verdict ?? "not_known";
  const margin = summary?.margin ?? null;
  const told = margin !== null && verdict !== "not_known" && (verdict !== "short" || margin < 0);
  return { verdict, margin: told ? percent(margin) : "" };
}

const CircuitRow = memo(function CircuitRow({ id, name, verdict, margin, on, onKeyDown }: RowProps) {
  const paths = usePaths();
  return (
    <RovingFocus.Item asChild active={on}>
      <Link
        to={paths.circuit(id)}
        data-circuit={id}
        draggable
        title={name}
        onDragStart={(event) => event.dataTransfer.setData("text/plain", id)}
        aria-current={on ? "page" : undefined}
        aria-keyshortcuts="Alt+ArrowUp Alt+ArrowDown Delete"
        className="grid min-h-8 w-full grid-cols-[1fr_auto_3.4rem] items-center gap-x-2 border-copper px-2 py-1 text-left hover:bg-lit aria-[current]:border-l-4 aria-[current]:bg-leaf"
        onKeyDown={(event) => onKeyDown(id, event)}
      >
        <span className="line-clamp-2 break-words leading-tight">{name}</span>
        <Mark verdict={verdict} />
        <span className="figure text-right text-faded">{margin}</span>
      </Link>
    </RovingFocus.Item>
  );
});
