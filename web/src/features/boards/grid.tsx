import {
  type ClipboardEvent,
  type CSSProperties,
  type DragEvent,
  type KeyboardEvent,
  useEffect,
  useLayoutEffect,
  useRef,
  useState,
} from "react";
import { Link } from "react-router";
import type { Board, Circuit } from "../../api/types";
import { usePaths } from "../../parts/paths";
import { useRoutes } from "../../parts/use-routes";
import { change, setFields, useJob, useRules, useStore } from "../../sync/job-context";
import { Command } from "../../ui/controls";
import { percent } from "../../ui/quantity";
import { Mark } from "../../ui/verdict";
import { CellField } from "./cell-field";
import { COLUMNS, type ColumnId, cellShown, cellText, duplicated, PHASE, pasted, type Row, rowsOf } from "./rows";
import { READING, useCells } from "./use-cells";
import { GRID } from "./words";

interface At {
  row: number;
  column: number;
}
/** What is being typed, and the row it is for: that may change its place meanwhile. */
interface Typing {
  text: string;
  row: Row;
}

const LINE =
  "grid border-hair border-b [grid-template-columns:var(--ways)] max-lg:[grid-template-columns:var(--ways-narrow)] max-lg:[&>*:nth-last-child(-n+2)]:order-1 max-lg:[&>*:nth-child(n+3):not(:nth-last-child(-n+2))]:order-2";

/** The ways of a board as a grid that is typed into: arrows walk, typing or Enter edits, paste takes a table or a list of lines. */
export function Grid({ board, circuits }: { board: Board; circuits: readonly Circuit[] }) {
  const store = useStore();
  const rules = useRules();
  const { inputs, state } = useJob();
  const { lying } = useRoutes();
  const paths = usePaths();
  const rows = rowsOf(board, circuits);
  const columns = inputs?.supply.phases === 3 ? [...COLUMNS, PHASE] : COLUMNS;
  const [at, setAt] = useState<At>({ row: 0, column: 0 });
  const [to, setTo] = useState<number | null>(null);
  const [typing, setTyping] = useState<Typing | null>(null);
  const { bad, told, tell, keep, read, take, put, takeLines, elsewhere } = useCells(board);
  const [over, setOver] = useState<number | null>(null);
  const grid = useRef<HTMLDivElement>(null);
  const row = Math.min(at.row, rows.length - 1);
  const column = Math.min(at.column, columns.length - 1);
  const chosen = to === null ? [row] : range(row, Math.min(to, rows.length - 1));
  const here = rows[row];
  const keyOf = (r: Row | undefined, c: number) => `${r?.key}/${columns[c]?.id}`;

  const back = useRef(false);
  // Before the next key: a cell that was just left would hand it to the commands of the page.
  // biome-ignore lint/correctness/useExhaustiveDependencies: the focus follows the chosen cell, and nothing else moves it
  useLayoutEffect(() => {
    if (typing !== null) return;
    if (back.current || grid.current?.contains(document.activeElement)) cell(row, column)?.focus();
    back.current = false;
  }, [row, column, typing, rows.length]);
  // biome-ignore lint/correctness/useExhaustiveDependencies: another row is chosen, and nothing else counts
  useEffect(elsewhere, [at.row]);
  const cell = (r: number, c: number) => grid.current?.querySelector<HTMLElement>(`[data-cell="${r}-${c}"]`);
  const go = (r: number, c: number, more = false) => {
    const next = Math.max(0, Math.min(rows.length - 1, r));
    if (more) setTo(next);
    else {
      setAt({ row: next, column: Math.max(0, Math.min(columns.length - 1, c)) });
      setTo(null);
    }
    setTyping(null);
    if (more) cell(row, column)?.focus();
  };

  const commit = async (text: string, into: Row | undefined = here) => {
    const id = columns[column]?.id;
    if (!into || !id) return;
    // What was chosen when the cell was opened: its row may have gone to another place.
    const now = rows.find((r) => r.key === into.key) ?? into;
    const before = now.circuit ? cellText(id, now.circuit, rules, now.circuit.run.spans.map(lying)) : "";
    const several = chosen.length > 1 && chosen.includes(row) && now === here;
    const targets = several ? chosen.flatMap((r) => rows[r] ?? []) : [now];
    if (text.trim() === before && targets.length === 1) return keep([{ key: `${now.key}/${id}`, bad: null }]);
    await put(text, id, targets);
  };
  const paste = async (text: string) => {
    const table = pasted(text);
    const single = table.every((cells) => cells.length === 1);
    if (single && table.length === 1 && here) return commit(table[0]?.[0] ?? "");
    if (single && columns[column]?.id === "name" && table.some((c) => /\d/.test(c[0] ?? ""))) return takeLines(text);
    const what = columns.slice(column).map((c) => c.id as ColumnId | null);
    const into = table.map((_, i) => rows[row + i]);
    // Whether the first row names the columns is for the reader to say: it knows what they are called.
    const found = await read(
      table,
      what,
      into.map((r) => r?.circuit?.id ?? null),
      table.some((cells) => cells.length > 1),
    );
    if (found) take(found, (n) => `${n} ${n === 1 ? "row" : "rows"} added; Ctrl+Z undoes it all`);
  };
  const circuitsChosen = () =>
    chosen.map((r) => rows[r]?.circuit).filter((c): c is Circuit => c !== null && c !== undefined);
  const fillDown = async () => {
    const id = columns[column]?.id;
    const first = rows[Math.min(...chosen)]?.circuit;
    if (!id || !first || chosen.length < 2) return tell(GRID.chooseSeveralRows);
    const text = cellText(id, first, rules, first.run.spans.map(lying));
    const rest = chosen.filter((r) => r !== Math.min(...chosen)).map((r) => rows[r]);
    const found = await read(
      rest.map(() => [text]),
      [id],
      rest.map((r) => r?.circuit?.id ?? null),
    );
    if (found) take(found, (n) => `filled down into ${n}`);
  };
  const again = () => {
    const changes = circuitsChosen().flatMap((c) => duplicated(c, circuits.indexOf(c)).changes);
    if (changes.length > 0) store.edit(changes);
  };
  const remove = () => {
    const gone = circuitsChosen();
    if (gone.length === 0) return;
    store.edit(gone.map((c) => change("remove", "circuit", c.id)));
    tell(`${gone.length} removed; Ctrl+Z restores ${gone.length === 1 ? "it" : "them"}`);
  };
  const reserve = () => {
    const them = circuitsChosen();
    const spare = them.some((c) => !c.spare);
    if (them.length > 0) store.edit(them.map((c) => setFields("circuit", c.id, { spare })));
  };
  const move = (by: number) => {
    const c = here?.circuit;
    const index = c ? circuits.indexOf(c) + by : -1;
    if (!c || index < 0 || index >= circuits.length) return;
    store.edit([change("move", "circuit", c.id, { parent: board.id, index })]);
    go(row + by, column);
  };
  const copy = () =>
    chosen
      .map((r) => rows[r]?.circuit)
      .map((c) => (c ? columns.map((k) => cellText(k.id, c, rules, c.run.spans.map(lying))).join("\t") : ""))
      .join("\n");

  const onKeyDown = (event: KeyboardEvent) => {
    if (typing !== null) return;
    const arrows: Record<string, [number, number]> = {
      ArrowDown: [1, 0],
      ArrowUp: [-1, 0],
      ArrowLeft: [0, -1],
      ArrowRight: [0, 1],
    };
    const step = arrows[event.key];
    const held = event.ctrlKey || event.metaKey;
    if (step && event.altKey && step[0] !== 0) move(step[0]);
    else if (step && event.shiftKey && step[0] !== 0) go((to ?? row) + step[0], column, true);
    else if (step) go(row + step[0], column + step[1]);
    else if (event.key === "Home") go(held ? 0 : row, 0);
    else if (event.key === "End") go(held ? rows.length - 1 : row, columns.length - 1);
    else if (event.key === "Enter" || event.key === "F2") open(null);
    else if (held && event.key.toLowerCase() === "d") {
      if (event.shiftKey) again();
      else void fillDown();
    } else if (event.key === "Delete" && held) remove();
    else if (event.key === "Delete") void commit("");
    else if (event.key === "Escape") {
      setTo(null);
      keep([{ key: keyOf(here, column), bad: null }]);
    } else if (event.key.length === 1 && !held && !event.altKey && event.key !== " ") open(event.key);
    else return;
    event.preventDefault();
    event.stopPropagation();
  };
  const open = (typed: string | null) => {
    const id = columns[column]?.id;
    const kept = bad.get(keyOf(here, column));
    const there = here?.circuit && id ? cellText(id, here.circuit, rules, here.circuit.run.spans.map(lying)) : "";
    if (here) setTyping({ text: typed ?? kept?.text ?? there, row: here });
  };
  const onPaste = (event: ClipboardEvent) => {
    if (typing !== null) return;
    event.preventDefault();
    void paste(event.clipboardData.getData("text/plain"));
  };
  const onDrop = (index: number) => (event: DragEvent) => {
    event.preventDefault();
    setOver(null);
    const id = event.dataTransfer.getData("text/plain");
    const from = circuits.findIndex((c) => c.id === id);
    const until = Math.min(index, circuits.length);
    if (id && inputs?.circuits.some((c) => c.id === id))
      store.edit([
        change("move", "circuit", id, { parent: board.id, index: from >= 0 && from < until ? until - 1 : until }),
      ]);
  };
  const [name, ...others] = columns.map((c) => c.width);
  // On a phone or a tablet the verdict stands beside the name; the rest is scrolled to.
  const template = {
    "--ways": `2.6rem ${name} ${others.join(" ")} 1.5rem 4.2rem`,
    "--ways-narrow": `2.6rem ${name} 1.5rem 4.2rem ${others.join(" ")}`,
  } as CSSProperties;
  const troubles = [...bad].filter(([key, b]) => b.why !== READING && rows.some((r) => key.startsWith(`${r.key}/`)));
  return (
    <section aria-label={GRID.ways} className="mt-3">
      <div className="flex flex-wrap items-baseline gap-x-4 gap-y-1">
        <Command keys="Enter" onClick={() => open(null)}>
          edit
        </Command>
        <Command keys="Ctrl D" onClick={() => void fillDown()}>
          {GRID.fillDown}
        </Command>
        <Command keys="Ctrl ⇧ D" onClick={again}>
          duplicate
        </Command>
        <Command keys="Alt ↑ ↓" onClick={() => move(1)}>
          move
        </Command>
        <Command keys="Ctrl Del" onClick={remove}>
          remove
        </Command>
        <Command onClick={reserve} title={GRID.cablePlaceBut}>
          {GRID.notConnected}
        </Command>
        <span className="text-faded max-md:hidden">{GRID.shiftSeveralPaste}</span>
      </div>
      <div className="mt-1 overflow-x-auto">
        <div
          ref={grid}
          role="grid"
          aria-label={`Ways of ${board.name || "the board"}`}
          aria-rowcount={rows.length + 1}
          aria-colcount={columns.length + 3}
          aria-multiselectable
          className="min-w-[52rem]"
          onKeyDown={onKeyDown}
          onPaste={onPaste}
          onCopy={(event) => {
            if (typing !== null) return;
            event.preventDefault();
            event.clipboardData.setData("text/plain", copy());
          }}
        >
          {/* biome-ignore lint/a11y/useFocusableInteractive: the heads are read, not chosen */}
          <div role="row" className={`${LINE} text-faded`} style={template}>
            {["way", ...columns.map((c) => c.title), "", "margin"].map((head, i) => (
              // biome-ignore lint/suspicious/noArrayIndexKey: heads have no identity beyond their order
              <Head key={i}>{head}</Head>
            ))}
          </div>
          {rows.map((r, i) => {
            const summary = state?.summaries.find((s) => s.id === r.circuit?.id);
            return (
              // biome-ignore lint/a11y/useFocusableInteractive: its cells take the focus
              <div
                // biome-ignore lint/suspicious/noArrayIndexKey: a field being typed into stays when its blank way becomes a circuit
                key={i}
                role="row"
                aria-selected={chosen.includes(i) && to !== null}
                data-row={r.circuit?.id ?? "blank"}
                style={template}
                className={`${LINE} ${over === i ? "border-t-2 border-t-copper" : ""} ${to !== null && chosen.includes(i) ? "bg-leaf" : ""}`}
                onDragOver={(event) => {
                  event.preventDefault();
                  setOver(i);
                }}
                onDragLeave={() => setOver(null)}
                onDrop={onDrop(i)}
              >
                {/* biome-ignore lint/a11y/useFocusableInteractive: it is dragged, and moved with Alt and the arrows */}
                <div
                  role="rowheader"
                  draggable={r.circuit !== null}
                  title={r.circuit ? GRID.dragAnotherWay : GRID.spareWay}
                  className={`figure px-1 py-1 text-faded ${r.circuit ? "cursor-grab" : ""}`}
                  onDragStart={(event) => event.dataTransfer.setData("text/plain", r.circuit?.id ?? "")}
                >
                  {r.way}
                  {(r.circuit?.phases ?? 1) > 1 && `–${r.way + 2}`}
                </div>
                {columns.map((c, j) => {
                  const wrong = bad.get(keyOf(r, j));
                  const mine = i === row && j === column;
                  const spans = r.circuit?.run.spans.map(lying) ?? [];
                  const shown = r.circuit ? cellShown(c.id, r.circuit, rules, spans) : "";
                  return mine && typing !== null ? (
                    <CellField
                      key={c.id}
                      label={`${c.title}, way ${r.way}`}
                      text={typing.text}
                      onText={(text) => setTyping({ ...typing, text })}
                      onLeave={(how) => {
                        setTyping(null);
                        back.current = how !== "blur";
                        if (how !== "drop") void commit(typing.text, typing.row);
                        if (how === "down") go(row + 1, column);
                        if (how === "right") go(row, column + 1);
                        if (how === "left") go(row, column - 1);
                      }}
                    />
                  ) : (
                    // biome-ignore lint/a11y/useKeyWithClickEvents: the keys are bound on the grid around it
                    <div
                      key={c.id}
                      role="gridcell"
                      data-cell={`${i}-${j}`}
                      data-column={c.id}
                      tabIndex={mine ? 0 : -1}
                      aria-busy={wrong?.why === READING || undefined}
                      aria-invalid={wrong && wrong.why !== READING ? true : undefined}
                      title={wrong?.why ?? shown}
                      className={`min-h-8 cursor-cell truncate px-1.5 py-1 ${!wrong ? "" : wrong.why === READING ? "text-faded" : "border-short border-b-2 text-short"} ${c.id === "name" ? "" : "text-[15px]"}`}
                      // With Shift the focus stays where the choice of rows began.
                      onMouseDown={(event) => event.shiftKey && event.preventDefault()}
                      onClick={(event) => {
                        if (event.shiftKey) go(i, j, true);
                        else {
                          setAt({ row: i, column: j });
                          setTo(null);
                        }
                      }}
                      onDoubleClick={() => open(null)}
                      onFocus={() => {
                        if (!mine) setAt({ row: i, column: j });
                      }}
                    >
                      {wrong ? wrong.text : shown}
                      {!wrong && c.id === "name" && r.circuit?.spare && (
                        <span className="text-faded"> {GRID.notConnected}</span>
                      )}
                      {!wrong && j === 0 && r.circuit === null && <span className="text-faded">{GRID.spareWay2}</span>}
                    </div>
                  );
                })}
                {/* biome-ignore lint/a11y/useFocusableInteractive: it is read, not chosen */}
                <div role="gridcell" className="py-1 text-center">
                  {summary && <Mark verdict={summary.verdict} />}
                </div>
                {/* biome-ignore lint/a11y/useFocusableInteractive: the link in it is */}
                <div role="gridcell" className="figure whitespace-nowrap py-1 pr-1 text-right">
                  {r.circuit && (
                    <Link
                      className="hover:bg-lit"
                      to={paths.circuit(r.circuit.id)}
                      title={summary ? `${summary.headline}: ${summary.reason}` : "open the circuit"}
                    >
                      {summary?.margin == null || summary.verdict === "not_known" ? "open" : percent(summary.margin)}
                    </Link>
                  )}
                </div>
              </div>
            );
          })}
        </div>
      </div>
      <div aria-live="polite">
        {told && <p className="mt-2">{told}</p>}
        {troubles.length > 0 && (
          <ul className="mt-1" data-bad-cells>
            {troubles.map(([key, one]) => (
              <li key={key} className="text-short">
                {circuits.find((c) => key.startsWith(c.id))?.name || "a new circuit"}, {key.split("/")[1]}: “{one.text}
                ”: {one.why}
              </li>
            ))}
          </ul>
        )}
      </div>
    </section>
  );
}

function Head({ children }: { children: string }) {
  return (
    // biome-ignore lint/a11y/useFocusableInteractive: they are read, not chosen
    <div role="columnheader" className="px-1.5 py-1">
      {children}
    </div>
  );
}

const range = (a: number, b: number) => Array.from({ length: Math.abs(a - b) + 1 }, (_, i) => Math.min(a, b) + i);
