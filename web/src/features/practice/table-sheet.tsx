import { useQuery } from "@tanstack/react-query";
import { table } from "../../api/client";
import { columnHead } from "../../ui/column-head";
import { TABLE_SHEET } from "./words";

/** A table of the book beside an exercise: whole, with no cell lit. Which one is needed is for the learner to find. */
export function TableSheet({ book, number, onClose }: { book: string; number: string; onClose: () => void }) {
  const found = useQuery({ queryKey: ["table", book, number], queryFn: () => table(book, number) });
  return (
    <section className="max-h-[70dvh] overflow-auto border-hair border bg-leaf p-3" aria-label={`Table ${number}`}>
      <div className="flex items-baseline justify-between gap-3">
        <h2 className="font-semibold">Table {number}</h2>
        <button type="button" className="word min-h-6" onClick={onClose}>
          {TABLE_SHEET.close}
        </button>
      </div>
      {found.error && <p className="text-short">{found.error.message}</p>}
      {found.data && (
        <>
          <p className="text-faded">
            {found.data.title}; {found.data.source}; look up by {found.data.edge}.
          </p>
          <table className="figure mt-2 border-collapse">
            <thead>
              <tr className="border-hair border-b text-left align-bottom">
                <th className="sticky left-0 bg-leaf pr-3 font-normal text-faded">{found.data.keys.join(", ")}</th>
                {found.data.columns.map((c, i) => (
                  <th key={c} className="px-2 font-semibold">
                    {columnHead(c)}
                    <span className="block font-normal text-faded">{found.data.units[i]}</span>
                  </th>
                ))}
              </tr>
            </thead>
            <tbody>
              {found.data.rows.map((row) => (
                <tr key={row.label} className="border-hair border-b">
                  <th scope="row" className="sticky left-0 bg-leaf pr-3 text-left font-normal">
                    {row.label}
                  </th>
                  {row.cells.map((cell, i) => (
                    <td key={found.data.columns[i]} className="px-2 text-right">
                      {cell}
                      {row.check.includes(found.data.columns[i] ?? "") && <span className="text-close">†</span>}
                    </td>
                  ))}
                </tr>
              ))}
            </tbody>
          </table>
        </>
      )}
    </section>
  );
}
