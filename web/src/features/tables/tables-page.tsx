import { useQuery } from "@tanstack/react-query";
import { useEffect, useState } from "react";
import { Link } from "react-router";
import { cellsRead, searchTables, tables } from "../../api/client";
import { usePaths } from "../../parts/paths";
import { useSettled } from "../../parts/use-said";
import { columnHead } from "../../ui/column-head";
import { inputClass } from "../../ui/editors";
import { DoubtfulCells } from "./doubtful-cells";
import { type Lit, TableView } from "./table-view";
import { TABLES } from "./words";

interface Props {
  ruleset: string;
  number: string | null;
  /** The cell to light. */
  lit?: Lit;
  /** What is searched for, as the address has it. */
  words: string;
  onWords: (words: string) => void;
  /** Back to the working that led here, where one did. */
  onBack?: () => void;
}

/** Every table of the rule set, found by its number, a word, a clause or a value that stands in it. */
export function TablesPage({ ruleset, number, lit, words, onWords, onBack }: Props) {
  const paths = usePaths();
  const [text, setText] = useState(words);
  const settled = useSettled(text.trim(), 200);
  // biome-ignore lint/correctness/useExhaustiveDependencies: the address follows what is typed, not the other way round
  useEffect(() => {
    if (number === null && settled !== words) onWords(settled);
  }, [settled]);
  useEffect(() => setText(words), [words]);
  const all = useQuery({ queryKey: ["tables", ruleset], queryFn: () => tables(ruleset) });
  const found = useQuery({
    queryKey: ["search-tables", ruleset, settled],
    queryFn: () => searchTables(ruleset, settled),
    enabled: settled !== "",
    placeholderData: (before) => before,
  });
  const hits = settled === "" ? null : (found.data ?? null);
  const shown = hits ? all.data?.filter((t) => hits.tables.some((h) => h.number === t.number)) : all.data;
  return (
    <div className="grid grid-cols-[20rem_1fr] gap-6 p-5 max-md:grid-cols-1">
      <div>
        <h1 className="font-semibold text-xl">{TABLES.tables}</h1>
        <input
          className={`${inputClass} mt-3`}
          type="search"
          aria-label={TABLES.searchTablesNumber}
          placeholder={TABLES.numberWordClause}
          value={text}
          onChange={(event) => setText(event.target.value)}
        />
        {all.isPending && <p className="mt-3 text-faded">{TABLES.opening}</p>}
        {all.error && <p className="mt-3 text-short">{all.error.message}</p>}
        {hits && hits.clauses.length > 0 && (
          <ul className="mt-3" data-clauses>
            {hits.clauses.map((c) => (
              <li key={c.clause + c.asks} className="grid grid-cols-[5.2rem_1fr] gap-2 border-hair border-t py-1">
                <span className="figure">{c.clause}</span>
                <span>
                  {c.asks}
                  {c.checks.length > 0 && <span className="text-faded"> · {c.checks.join(", ").toLowerCase()}</span>}
                </span>
              </li>
            ))}
          </ul>
        )}
        {shown?.length === 0 && hits?.clauses.length === 0 && <p className="mt-3 text-faded">{TABLES.nothingFound}</p>}
        <ul className="mt-3 max-h-[70vh] overflow-auto">
          {shown?.map((t) => (
            <li key={t.number} className="border-hair border-t">
              <Link
                aria-current={t.number === number ? "page" : undefined}
                className="grid w-full grid-cols-[5.2rem_1fr] gap-2 py-1.5 text-left hover:bg-lit aria-[current]:bg-lit"
                to={paths.table(t.number)}
              >
                <span className="figure">{t.number}</span>
                <span>
                  {t.title}
                  {t.to_check > 0 && <span className="text-close"> · † {t.to_check} to be checked</span>}
                </span>
              </Link>
              {hits?.tables
                .find((h) => h.number === t.number)
                ?.cells.map((cell) => (
                  <Link
                    key={cell.row + cell.column}
                    className="ml-[5.7rem] block py-0.5 text-faded hover:bg-lit"
                    to={paths.table(t.number, cell)}
                  >
                    {cell.row}, {columnHead(cell.column)}
                  </Link>
                ))}
            </li>
          ))}
        </ul>
      </div>
      <div className="min-w-0">
        {onBack && (
          <button type="button" className="word mb-2" onClick={onBack}>
            {TABLES.backWorking}
          </button>
        )}
        {number ? (
          <TableView ruleset={ruleset} number={number} lit={lit} />
        ) : (
          <>
            <p className="mb-6 text-faded">{TABLES.chooseTableEvery}</p>
            <DoubtfulCells ruleset={ruleset} />
            <CellsRead ruleset={ruleset} />
          </>
        )}
      </div>
    </div>
  );
}

/** What the firm has read in the printed book: who, when, in which edition. */
function CellsRead({ ruleset }: { ruleset: string }) {
  const paths = usePaths();
  const found = useQuery({ queryKey: ["cells-read", ruleset], queryFn: () => cellsRead(ruleset) });
  if (!found.data || found.data.length === 0) return null;
  return (
    <section className="mt-6" aria-label={TABLES.cellsReadBook}>
      <h2 className="font-semibold text-lg">{TABLES.checkedAgainstPrinted}</h2>
      <ul>
        {found.data.map((c) => (
          <li key={c.table + c.row + c.column} className="border-hair border-t py-1">
            <Link className="word" to={paths.table(c.table, c)}>
              Table {c.table}, {c.row}, {columnHead(c.column)}
            </Link>
            {": "}
            {c.value === null ? "agrees" : `printed ${c.value}`}, {c.by}, {c.on}, {c.edition}
          </li>
        ))}
      </ul>
    </section>
  );
}
