import { useQuery } from "@tanstack/react-query";
import { useEffect, useRef } from "react";
import { table } from "../../api/client";
import type { Table } from "../../api/types";
import { columnHead } from "../../ui/column-head";
import { Settle } from "./settle";
import { TABLE_VIEW } from "./words";

export interface Lit {
  row: string;
  column: string;
}

/** A table of the rule set as the core reads it, with the row and column of one value lit. */
export function TableView({
  ruleset,
  number,
  lit,
  onClose,
}: {
  ruleset: string;
  number: string;
  lit?: Lit;
  onClose?: () => void;
}) {
  const found = useQuery({
    queryKey: ["table", ruleset, number],
    queryFn: () => table(ruleset, number),
    staleTime: Number.POSITIVE_INFINITY,
  });
  if (found.isPending) return <p className="text-faded">Opening table {number} …</p>;
  if (!found.data) return <p className="text-short">{found.error?.message}</p>;
  return <Grid ruleset={ruleset} table={found.data} lit={lit} onClose={onClose} />;
}

type GridProps = { ruleset: string; table: Table; lit?: Lit; onClose?: () => void };

function Grid({ ruleset, table, lit, onClose }: GridProps) {
  const cell = useRef<HTMLTableCellElement>(null);
  // biome-ignore lint/correctness/useExhaustiveDependencies: scroll whenever another cell is lit
  useEffect(() => {
    cell.current?.scrollIntoView?.({ block: "nearest", inline: "center" });
  }, [lit?.row, lit?.column, table.number]);
  const marked = table.rows.some((r) => r.check.length > 0);
  return (
    <section aria-label={`Table ${table.number}`} className="min-w-0">
      <div className="flex items-baseline justify-between gap-2">
        <h3 className="font-semibold">
          {table.number} · {table.title}
        </h3>
        {onClose && (
          <button type="button" className="word shrink-0" onClick={onClose}>
            close
          </button>
        )}
      </div>
      <p className="text-faded">
        {table.source}. Look-up: {table.edge}.
      </p>
      <div
        className={`mt-2 ${onClose ? "max-h-[44vh]" : "max-h-[78vh]"} overflow-auto`}
        tabIndex={0}
        role="region"
        aria-label={`Cells of table ${table.number}`}
      >
        <table className="figure w-full border-collapse">
          <thead>
            <tr>
              <th scope="col" className="sticky top-0 left-0 z-10 bg-leaf px-2 py-1 text-left font-normal text-faded">
                {table.keys.join(", ").replaceAll("_", " ")}
              </th>
              {table.columns.map((c, i) => (
                <th
                  key={c}
                  scope="col"
                  className={`sticky top-0 px-2 py-1 text-right font-normal ${c === lit?.column ? "bg-lit" : "bg-leaf text-faded"}`}
                >
                  {columnHead(c)}
                  {table.units[i] && <span className="block">{table.units[i]}</span>}
                </th>
              ))}
            </tr>
          </thead>
          <tbody>
            {table.rows.map((row) => {
              const rowLit = row.label === lit?.row;
              return (
                <tr key={row.label} className="border-hair border-t">
                  <th
                    scope="row"
                    className={`sticky left-0 px-2 py-1 text-left font-normal ${rowLit ? "bg-lit" : "bg-leaf"}`}
                  >
                    {row.label}
                  </th>
                  {row.cells.map((value, i) => {
                    const column = table.columns[i] ?? "";
                    const here = rowLit && column === lit?.column;
                    const tone = here
                      ? "bg-copper text-on-copper font-semibold"
                      : rowLit || column === lit?.column
                        ? "bg-lit"
                        : "";
                    return (
                      <td
                        key={column}
                        ref={here ? cell : undefined}
                        data-lit={here || undefined}
                        className={`px-2 py-1 ${/^[-\d.]*$/.test(value) ? "text-right" : "font-sans"} ${tone}`}
                      >
                        {row.check.includes(column) || row.read[column] ? (
                          <Settle
                            ruleset={ruleset}
                            cell={{ table: table.number, row: row.label, column }}
                            ours={value}
                            read={row.read[column] ?? ""}
                          >
                            {value}
                            {row.check.includes(column) ? "†" : "✓"}
                          </Settle>
                        ) : (
                          value
                        )}
                      </td>
                    );
                  })}
                </tr>
              );
            })}
          </tbody>
        </table>
      </div>
      {marked && <p className="mt-1 text-close">{TABLE_VIEW.checkedAgainstPrinted}</p>}
    </section>
  );
}
