import {
  type ClipboardEvent,
  type CSSProperties,
  type DragEvent,
  type KeyboardEvent,
  useEffect,
  useRef,
  useState,
} from "react";
import { Link } from "react-router";
import { saidRows } from "../../api/client";
import type { Board, Change, Circuit, RowsOut } from "../../api/types";
import { usePaths } from "../../parts/paths";
import { useRoutes } from "../../parts/use-routes";
import { changesOf } from "../../parts/use-said";
import { change, setFields, useJob, useRules, useStore } from "../../sync/job-context";
import { Command } from "../../ui/controls";
import { percent } from "../../ui/quantity";
import { Mark } from "../../ui/verdict";
import { CellField } from "./cell-field";
import { COLUMNS, type ColumnId, cellShown, cellText, duplicated, PHASE, pasted, type Row, rowsOf } from "./rows";

interface At {
  row: number;
  column: number;
}
/** A cell that could not be read: what was typed is kept with the reason, until it is mended or let go. */
interface Bad {
  text: string;
  why: string;
}

const LINE =
  "grid border-hair border-b [grid-template-columns:var(--ways)] max-lg:[grid-template-columns:var(--ways-narrow)] max-lg:[&>*:nth-last-child(-n+2)]:order-1 max-lg:[&>*:nth-child(n+3):not(:nth-last-child(-n+2))]:order-2";

// Why a cell still shows what was typed: the server has not answered yet.
const READING = "being read";

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
  const [typing, setTyping] = useState<string | null>(null);
  const [bad, setBad] = useState<ReadonlyMap<string, Bad>>(new Map());
  const [told, setTold] = useState("");
  const [over, setOver] = useState<number | null>(null);
  const grid = useRef<HTMLDivElement>(null);
  const row = Math.min(at.row, rows.length - 1);
  const column = Math.min(at.column, columns.length - 1);
  const chosen = to === null ? [row] : range(row, Math.min(to, rows.length - 1));
  const here = rows[row];
  const keyOf = (r: Row | undefined, c: number) => `${r?.key}/${columns[c]?.id}`;

  // biome-ignore lint/correctness/useExhaustiveDependencies: the focus follows the chosen cell, and nothing else moves it
  useEffect(() => {
    if (typing === null && grid.current?.contains(document.activeElement)) cell(row, column)?.focus();
  }, [row, column, typing, rows.length]);
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

  const keep = (cells: { key: string; bad: Bad | null }[]) =>
    setBad((before) => {
      const now = new Map(before);
      for (const one of cells) {
        if (one.bad) now.set(one.key, one.bad);
        else now.delete(one.key);
      }
      return now;
    });
  const read = async (
    cells: string[][],
    what: (ColumnId | null)[],
    into: readonly (Circuit | null)[],
    fromElsewhere = false,
  ) => {
    try {
      return await saidRows(store.job, {
        board: board.id,
        rows: cells,
        columns: what,
        pasted: fromElsewhere,
        circuits: into.map((c) => c?.id ?? null),
      });
    } catch (error) {
      setTold(`Not read: ${error instanceof Error ? error.message : "no answer"} What was typed is kept in the cell.`);
      return null;
    }
  };
  /** Take what was read; cells that were not understood are kept with their reason at the row they belong to. */
  const take = (found: RowsOut, words: (circuits: number) => string) => {
    const changes = found.rows.flatMap((r) => r.changes as unknown as Change[]);
    if (changes.length > 0) store.edit(changes);
    keep(
      found.rows.flatMap((r) =>
        r.cells.map((c) => ({
          key: `${r.circuit}/${c.column}`,
          bad: c.why ? { text: c.text, why: c.why } : null,
        })),
      ),
    );
    const wrong = found.rows.reduce((sum, r) => sum + r.cells.filter((c) => c.why).length, 0);
    const assumed = [...new Set(found.rows.flatMap((r) => r.assumed))];
    setTold(
      [
        words(found.rows.length),
        wrong > 0 && `${wrong} ${wrong === 1 ? "cell was" : "cells were"} not understood and kept as typed`,
        assumed.length > 0 && `assumed: ${assumed.slice(0, 3).join("; ")}`,
      ]
        .filter(Boolean)
        .join(". "),
    );
  };
  const commit = async (text: string) => {
    const id = columns[column]?.id;
    if (!here || !id) return;
    const before = here.circuit ? cellText(id, here.circuit, rules, here.circuit.run.spans.map(lying)) : "";
    const targets = chosen.length > 1 && chosen.includes(row) ? chosen.map((r) => rows[r]) : [here];
    const key = keyOf(here, column);
    if (text.trim() === before && targets.length === 1) {
      keep([{ key, bad: null }]);
      return;
    }
    // Kept as typed until it is read, so that nothing is lost on the way.
    keep([{ key, bad: { text, why: READING } }]);
    const found = await read(
      targets.map(() => [text]),
      [id],
      targets.map((t) => t?.circuit ?? null),
    );
    if (!found) return keep([{ key, bad: { text, why: "not sent: the server did not answer. Enter tries again" } }]);
    keep([{ key, bad: null }]);
    take(found, (n) => (n > 1 ? `set in ${n} circuits` : ""));
  };
  const paste = async (text: string) => {
    const table = pasted(text);
    const single = table.every((cells) => cells.length === 1);
    if (single && table.length === 1 && here) return commit(table[0]?.[0] ?? "");
    if (single && columns[column]?.id === "name" && table.some((c) => /\d/.test(c[0] ?? ""))) return lines(text);
    const what = columns.slice(column).map((c) => c.id as ColumnId | null);
    const into = table.map((_, i) => rows[row + i]);
    // Whether the first row names the columns is for the reader to say: it knows what they are called.
    const found = await read(
      table,
      what,
      into.map((r) => r?.circuit ?? null),
      table.some((cells) => cells.length > 1),
    );
    if (found) take(found, (n) => `${n} ${n === 1 ? "row" : "rows"} taken; Ctrl+Z takes all of it back`);
  };
  const lines = async (text: string) => {
    const { said } = await import("../../api/client");
    try {
      const found = await said(store.job, text, board.id);
      const changes = changesOf(found);
      if (changes.length > 0) store.edit(changes);
      const lost = found.filter((l) => l.why || l.unread.length > 0);
      setTold(
        `${found.filter((l) => l.circuit).length} circuits taken from the list; Ctrl+Z takes all of it back.${lost.map((l) => ` “${l.line}”: ${l.why || `“${l.unread[0]?.text}” was not read`}.`).join("")}`,
      );
    } catch (error) {
      setTold(`Not read: ${error instanceof Error ? error.message : "no answer"}`);
    }
  };
  const circuitsChosen = () =>
    chosen.map((r) => rows[r]?.circuit).filter((c): c is Circuit => c !== null && c !== undefined);
  const fillDown = async () => {
    const id = columns[column]?.id;
    const first = rows[Math.min(...chosen)]?.circuit;
    if (!id || !first || chosen.length < 2)
      return setTold("Choose several rows first (Shift and the arrows), then fill down.");
    const text = cellText(id, first, rules, first.run.spans.map(lying));
    const rest = chosen.filter((r) => r !== Math.min(...chosen)).map((r) => rows[r]);
    const found = await read(
      rest.map(() => [text]),
      [id],
      rest.map((r) => r?.circuit ?? null),
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
    setTold(`${gone.length} removed; Ctrl+Z brings ${gone.length === 1 ? "it" : "them"} back`);
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
    setTyping(typed ?? kept?.text ?? there);
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
    <section aria-label="Ways" className="mt-3">
      <div className="flex flex-wrap items-baseline gap-x-4 gap-y-1">
        <Command keys="Enter" onClick={() => open(null)}>
          edit
        </Command>
        <Command keys="Ctrl D" onClick={() => void fillDown()}>
          fill down
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
        <Command onClick={reserve} title="Pulled in and not connected: it carries nothing, and nothing is asked of it">
          spare
        </Command>
        <span className="text-faded max-md:hidden">Shift ↑ ↓ several · paste rows or lines</span>
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
                key={r.key}
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
                  title={r.circuit ? "Drag to another way, or to another board at the left" : "A blank way"}
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
                      text={typing}
                      onText={setTyping}
                      onLeave={(how) => {
                        const text = typing;
                        setTyping(null);
                        if (how !== "drop") void commit(text);
                        if (how === "down") go(row + 1, column);
                        if (how === "right") go(row, column + 1);
                        if (how === "left") go(row, column - 1);
                        if (how !== "blur")
                          requestAnimationFrame(() => cell(how === "down" ? row + 1 : row, column)?.focus());
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
                      {!wrong && c.id === "name" && r.circuit?.spare && <span className="text-faded"> spare</span>}
                      {!wrong && j === 0 && r.circuit === null && <span className="text-faded">blank</span>}
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
