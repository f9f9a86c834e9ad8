import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { cheapest } from "../../api/client";
import { setFields, useJob, useStore } from "../../sync/job-context";
import { Button } from "../../ui/controls";
import { shortFigure } from "../../ui/quantity";

/** The cheapest sizes of all sub-mains and finals together; nothing changes until they are taken. */
export function LeastCost({ names }: { names: Map<string, string> }) {
  const store = useStore();
  const { state, unsent } = useJob();
  const [open, setOpen] = useState(false);
  const found = useQuery({
    queryKey: ["cheapest", store.job, state?.version],
    queryFn: () => cheapest(store.job),
    enabled: open && unsent === 0,
    retry: false,
  });
  const data = found.data;
  const moved = data?.chosen.filter((c) => c.csa !== null && c.csa !== c.before) ?? [];
  const take = () =>
    store.edit(moved.map((c) => setFields("circuit", c.circuit, { cable: { csa: c.csa, cpc_csa: c.cpc_csa } })));
  return (
    <details className="mt-6" onToggle={(event) => setOpen(event.currentTarget.open)}>
      <summary className="cursor-pointer font-semibold text-xl hover:bg-lit">Cheapest sizes, all together</summary>
      {found.isPending && open && <p className="mt-2 text-faded">Trying sizes down the whole tree …</p>}
      {found.error && <p className="mt-2 text-short">{found.error.message}</p>}
      {data && (
        <>
          <p className="mt-2">
            {data.proof}. Cable, laying, devices and digging come to <span className="figure">{total(data.after)}</span>{" "}
            by made-up prices, with <span className="figure">{shortFigure(data.after.copper_kg)} kg</span> of copper.
          </p>
          {data.unsolved.length > 0 && (
            <p className="mt-1 text-short">No size cures {data.unsolved.map((id) => names.get(id)).join(", ")}.</p>
          )}
          <ul className="mt-2" data-cheapest>
            {moved.map((c) => (
              <li key={c.circuit} className="grid max-w-2xl grid-cols-[1fr_12rem_7rem] border-hair border-t py-1">
                <span>{names.get(c.circuit)}</span>
                <span className="figure">
                  {c.before === null ? "" : `${shortFigure(c.before)} → `}
                  {shortFigure(c.csa ?? 0)} mm²
                </span>
                <span className="figure text-right">{c.cost > 0 ? `+${c.cost.toFixed(2)}` : c.cost.toFixed(2)}</span>
              </li>
            ))}
          </ul>
          {moved.length === 0 ? (
            <p className="mt-2">They are the ones entered.</p>
          ) : (
            <Button strong className="mt-3" onClick={take}>
              take these sizes
            </Button>
          )}
        </>
      )}
    </details>
  );
}

const total = (cost: { cable: number; laying: number; device: number; digging: number }) =>
  (cost.cable + cost.laying + cost.device + cost.digging).toFixed(2);
