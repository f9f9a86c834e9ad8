import { useQuery } from "@tanstack/react-query";
import { curves } from "../../api/client";
import type { Cited, Plot } from "../../api/types";
import { useOverview } from "../../parts/use-overview";
import { useJob, useStore } from "../../sync/job-context";
import { inputClass } from "../../ui/editors";
import { Opening } from "../../ui/view";
import { Order } from "./order";
import { PlotView } from "./plot-view";
import { COORDINATION } from "./words";

interface Props {
  /** The circuit whose chain is drawn. */
  circuit: string | null;
  onChoose: (id: string) => void;
  onCircuit: (id: string) => void;
  onTable: (cite: Cited) => void;
}

/** Which device opens first: the chain of a circuit over time and current, and every pair of the job in words. */
export function CoordinationPage({ circuit, onChoose, onCircuit, onTable }: Props) {
  const store = useStore();
  const { inputs, unsent, asOf, settled } = useJob();
  // The deepest circuit says most at first.
  const chosen = inputs?.circuits.find((c) => c.id === circuit) ?? deepest(inputs?.circuits ?? []);
  const found = useQuery({
    queryKey: ["curves", chosen?.id, asOf],
    queryFn: async (): Promise<Plot> => (await curves(store.job, chosen?.id ?? "")) as Plot,
    enabled: chosen !== undefined && settled,
    placeholderData: (before) => (before?.circuit === chosen?.id ? before : undefined),
    retry: false,
  });
  const overview = useOverview(!found.isFetching);
  if (!inputs) return <Opening />;
  if (!chosen) return <p className="p-6">{COORDINATION.noCircuitYet}</p>;
  return (
    <div className="px-6 py-5 max-sm:px-3" aria-busy={found.isFetching || unsent > 0}>
      <div className="flex flex-wrap items-baseline gap-x-4 gap-y-1">
        <h1 className="font-semibold text-2xl">{COORDINATION.selectivity}</h1>
        <label className="flex items-baseline gap-2">
          <span className="text-faded">from</span>
          <select
            className={`${inputClass} w-auto`}
            value={chosen.id}
            onChange={(event) => onChoose(event.target.value)}
          >
            {inputs.boards.map((board) => (
              <optgroup key={board.id} label={board.name || "Unnamed board"}>
                {inputs.circuits
                  .filter((c) => c.board === board.id)
                  .map((c) => (
                    <option key={c.id} value={c.id}>
                      {c.name || "Unnamed circuit"}
                    </option>
                  ))}
              </optgroup>
            ))}
          </select>
        </label>
        <button type="button" className="word" onClick={() => onCircuit(chosen.id)}>
          {COORDINATION.openCircuit}
        </button>
      </div>
      {found.error && <p className="mt-2 text-short">{found.error.message}</p>}
      {found.data ? <PlotView plot={found.data} name={chosen.name || "circuit"} /> : <Opening />}
      {overview.data && <Order pairs={overview.data.pairs} onTable={onTable} />}
    </div>
  );
}

type Listed = { id: string; name: string; board: string; feeds: string | null; device: { rating: number | null } };
/** The first final behind the most sub-mains. */
function deepest<C extends Listed>(circuits: readonly C[]): C | undefined {
  const depth = (c: Listed, seen = 0): number => {
    const above = circuits.find((o) => o.feeds === c.board);
    return above && seen < 20 ? 1 + depth(above, seen + 1) : 0;
  };
  return [...circuits].filter((c) => c.device.rating !== null).sort((a, b) => depth(b) - depth(a))[0] ?? circuits[0];
}
