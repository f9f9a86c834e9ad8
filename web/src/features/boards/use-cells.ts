import { useRef, useState } from "react";
import { saidRows } from "../../api/client";
import type { Board, Change, RowsOut } from "../../api/types";
import { changesOf } from "../../parts/use-said";
import { useStore } from "../../sync/job-context";
import type { ColumnId, Row } from "./rows";

/** A cell that could not be read: what was typed is kept with the reason, until it is mended or let go. */
export interface Bad {
  text: string;
  why: string;
}

/** Why a cell still shows what was typed: the server has not answered yet. */
export const READING = "reading it …";
const AWAY = "not sent: the server did not answer. Enter tries again";
/** The reader has to know a circuit that was made a moment ago: so long is waited until it is sent [ms]. */
const LONGEST = 3000;

type Store = ReturnType<typeof useStore>;

function sent(store: Store): Promise<void> {
  if (store.get().unsent === 0) return Promise.resolve();
  return new Promise((done) => {
    const end = () => {
      clearTimeout(timer);
      stop();
      done();
    };
    const timer = setTimeout(end, LONGEST);
    const stop = store.subscribe(() => store.get().unsent === 0 && end());
  });
}

/** What is typed into the cells of a board: read by the server, taken as edits, kept as typed with the reason where it was not understood. */
export function useCells(board: Board) {
  const store = useStore();
  const [bad, setBad] = useState<ReadonlyMap<string, Bad>>(new Map());
  const [told, setTold] = useState("");
  // Circuits that are being made of blank ways, by the way: what is typed there next is for them, also before the server has answered.
  const made = useRef(new Map<string, Promise<string | null>>());

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
    rows: string[][],
    columns: (ColumnId | null)[],
    circuits: (string | null)[],
    fromElsewhere = false,
  ) => {
    await sent(store);
    try {
      return await saidRows(store.job, { board: board.id, rows, columns, pasted: fromElsewhere, circuits });
    } catch (error) {
      setTold(
        `Not understood: ${error instanceof Error ? error.message : "no answer"} What was typed is kept in the cell.`,
      );
      return null;
    }
  };

  /** Take what was read; cells that were not understood are kept with their reason at the row they belong to. */
  const take = (found: RowsOut, words: (circuits: number) => string) => {
    const changes = found.rows.flatMap((r) => r.changes as unknown as Change[]);
    if (changes.length > 0) store.edit(changes);
    keep(
      found.rows.flatMap((r) =>
        r.cells.map((c) => ({ key: `${r.circuit}/${c.column}`, bad: c.why ? { text: c.text, why: c.why } : null })),
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

  /** The circuit that a blank way has become, once it is made; null where `make` was asked to make it, now that it is its turn. */
  const circuitOf = async (way: string, make: () => Promise<string | null>): Promise<string | null> => {
    for (let making = made.current.get(way); making; making = made.current.get(way)) {
      const id = await making;
      if (id !== null && store.get().inputs?.circuits.some((c) => c.id === id)) return id;
      // It was not made after all, or is gone again: whoever asks first makes it.
      if (made.current.get(way) === making) made.current.delete(way);
    }
    const mine = make();
    made.current.set(way, mine);
    await mine;
    return null;
  };

  /** Put a text into a column of some rows. A blank one becomes a circuit. */
  const put = async (text: string, column: ColumnId, rows: readonly Row[]) => {
    const [first] = rows;
    if (!first) return;
    const key = `${first.key}/${column}`;
    // Kept as typed until it is read, so that nothing is lost on the way.
    keep([{ key, bad: { text, why: READING } }]);
    const into = async (circuits: (string | null)[], at: string) => {
      const found = await read(
        circuits.map(() => [text]),
        [column],
        circuits,
      );
      keep([{ key: at, bad: found ? null : { text, why: AWAY } }]);
      if (found) take(found, (n) => (n > 1 ? `set in ${n} circuits` : ""));
      return found?.rows[0]?.circuit ?? null;
    };
    if (first.circuit || rows.length > 1) {
      await into(
        rows.map((r) => r.circuit?.id ?? null),
        key,
      );
      return;
    }
    const id = await circuitOf(first.key, () => into([null], key));
    if (id === null) return;
    const at = `${id}/${column}`;
    keep([
      { key, bad: null },
      { key: at, bad: { text, why: READING } },
    ]);
    await into([id], at);
  };

  /** Take a list of lines, each a circuit. */
  const takeLines = async (text: string) => {
    const { said } = await import("../../api/client");
    try {
      const found = await said(store.job, text, board.id);
      const changes = changesOf(found);
      if (changes.length > 0) store.edit(changes);
      const lost = found.filter((l) => l.why || l.unread.length > 0);
      setTold(
        `${found.filter((l) => l.circuit).length} circuits added from the list; Ctrl+Z undoes it all.${lost.map((l) => ` “${l.line}”: ${l.why || `“${l.unread[0]?.text}” was not understood`}.`).join("")}`,
      );
    } catch (error) {
      setTold(`Not understood: ${error instanceof Error ? error.message : "no answer"}`);
    }
  };

  return {
    bad,
    told,
    tell: setTold,
    keep,
    read,
    take,
    put,
    takeLines,
    /** Somebody went to another row: what is typed into a blank way from now on is another circuit. */
    elsewhere: () => made.current.clear(),
  };
}
