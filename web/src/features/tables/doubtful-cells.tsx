import { useQuery } from "@tanstack/react-query";
import { Link } from "react-router";
import { jobCells } from "../../api/client";
import type { CellUse } from "../../api/types";
import { usePaths } from "../../parts/paths";
import { useJob, useStore } from "../../sync/job-context";
import { columnHead } from "../../ui/column-head";
import { quantity } from "../../ui/quantity";
import { Settle } from "./settle";
import { DOUBTFUL_CELLS } from "./words";

/** The doubtful cells this job rests on, most used first, each to be settled with the printed book in hand. */
export function DoubtfulCells({ ruleset }: { ruleset: string }) {
  const store = useStore();
  const { state, asOf, settled } = useJob();
  const found = useQuery({
    queryKey: ["job-cells", store.job, asOf, state?.cells],
    queryFn: () => jobCells(store.job),
    enabled: settled,
    placeholderData: (before) => before,
    retry: false,
  });
  if (found.error) return <p className="text-short">{found.error.message}</p>;
  if (!found.data) return <p className="text-faded">{DOUBTFUL_CELLS.lookingThroughWorking}</p>;
  const open = found.data.filter((c) => c.check);
  const agreed = found.data.filter((c) => !c.check);
  return (
    <section aria-label={DOUBTFUL_CELLS.valuesChecked}>
      <h2 className="font-semibold text-lg">{DOUBTFUL_CELLS.tableValuesUsed}</h2>
      <p className="mt-1 max-w-prose text-faded">
        {open.length === 0
          ? DOUBTFUL_CELLS.noneEveryTable
          : `${open.length} of them, most used first. With the printed standard to hand, open each and confirm or correct it.`}
      </p>
      <CellList cells={open} ruleset={ruleset} />
      {agreed.length > 0 && (
        <>
          <h3 className="mt-5 font-semibold">{DOUBTFUL_CELLS.checkedAgainstPrinted}</h3>
          <CellList cells={agreed} ruleset={ruleset} />
        </>
      )}
    </section>
  );
}

function CellList({ cells, ruleset }: { cells: readonly CellUse[]; ruleset: string }) {
  const paths = usePaths();
  return (
    <ul className="mt-2 max-w-3xl">
      {cells.map((c) => {
        const ours = `${quantity(c.value, c.unit)}`;
        return (
          <li
            key={`${c.table} ${c.row} ${c.column}`}
            data-cell={`${c.table} ${c.row} ${c.column}`}
            className="grid grid-cols-[1fr_auto_6rem] items-baseline gap-x-4 border-hair border-t py-1.5"
          >
            <span>
              <Link className="word" to={paths.table(c.table)}>
                Table {c.table}
              </Link>{" "}
              {c.row}, {columnHead(c.column)} <span className="text-faded">· {c.title}</span>
              {c.read && <span className="block text-meets">{c.read}</span>}
            </span>
            <span className="figure">
              <Settle
                ruleset={ruleset}
                cell={{ table: c.table, row: c.row, column: c.column }}
                ours={ours}
                read={c.read}
              >
                {ours}
                {c.check && "†"}
              </Settle>
            </span>
            <span className="text-right text-faded">
              {c.uses} {c.uses === 1 ? "use" : "uses"}
            </span>
          </li>
        );
      })}
    </ul>
  );
}
