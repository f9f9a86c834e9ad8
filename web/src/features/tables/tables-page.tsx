import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { Link } from "react-router";
import { tables } from "../../api/client";
import { usePaths } from "../../parts/paths";
import { inputClass } from "../../ui/editors";
import { DoubtfulCells } from "./doubtful-cells";
import { TableView } from "./table-view";

interface Props {
  ruleset: string;
  number: string | null;
}

/** Every table of the rule set, searchable by number or word. */
export function TablesPage({ ruleset, number }: Props) {
  const paths = usePaths();
  const [words, setWords] = useState("");
  const found = useQuery({ queryKey: ["tables", ruleset], queryFn: () => tables(ruleset) });
  const wanted = words.toLowerCase().split(/\s+/).filter(Boolean);
  const shown = found.data?.filter((t) =>
    wanted.every((w) => `${t.number} ${t.title} ${t.source}`.toLowerCase().includes(w)),
  );
  return (
    <div className="grid grid-cols-[20rem_1fr] gap-6 p-5 max-md:grid-cols-1">
      <div>
        <h1 className="font-semibold text-xl">Tables</h1>
        <input
          className={`${inputClass} mt-3`}
          type="search"
          aria-label="Search the tables by number or word"
          placeholder="number or word"
          value={words}
          onChange={(event) => setWords(event.target.value)}
        />
        {found.isPending && <p className="mt-3 text-faded">Opening …</p>}
        {found.error && <p className="mt-3 text-short">{found.error.message}</p>}
        {shown?.length === 0 && <p className="mt-3 text-faded">No table holds these words.</p>}
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
            </li>
          ))}
        </ul>
      </div>
      <div className="min-w-0">
        {number ? (
          <TableView ruleset={ruleset} number={number} />
        ) : (
          <>
            <p className="mb-6 text-faded">Choose a table. Every number in a working comes from one of these cells.</p>
            <DoubtfulCells ruleset={ruleset} />
          </>
        )}
      </div>
    </div>
  );
}
