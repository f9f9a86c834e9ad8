import { useState } from "react";
import { cheapest } from "../../api/client";
import { moneyShown } from "../../api/money";
import { pounds } from "../../parts/price";
import { Progress, useSearch } from "../../parts/use-search";
import { setFields, useJob, useStore } from "../../sync/job-context";
import { Button } from "../../ui/controls";
import { shortFigure } from "../../ui/quantity";
import { LEAST_COST, ONCE_SAVED } from "./words";

/** The cheapest sizes of all sub-mains and finals together, before and after; all of them or some are taken, and nothing changes before. */
export function LeastCost({ names, asked }: { names: Map<string, string>; asked: boolean }) {
  const store = useStore();
  const { unsent, asOf, settled } = useJob();
  const [open, setOpen] = useState(asked);
  const [left, setLeft] = useState<ReadonlySet<string>>(new Set());
  const found = useSearch(["cheapest", store.job, asOf], (watch) => cheapest(store.job, watch), {
    enabled: open && settled,
  });
  const data = found.data;
  const moved = data?.chosen.filter((c) => c.csa !== null && c.csa !== c.before) ?? [];
  const taking = moved.filter((c) => !left.has(c.circuit));
  const take = () =>
    store.edit(taking.map((c) => setFields("circuit", c.circuit, { cable: { csa: c.csa, cpc_csa: c.cpc_csa } })));
  const all = taking.length === moved.length;
  return (
    <details className="mt-8" open={open} onToggle={(event) => setOpen(event.currentTarget.open)}>
      <summary className="cursor-pointer font-semibold text-xl hover:bg-lit">{LEAST_COST.cheapestSizesWhole}</summary>
      {open && unsent > 0 && <p className="mt-2 text-faded">{ONCE_SAVED}</p>}
      {found.isPending && open && unsent === 0 && (
        <Progress say={LEAST_COST.tryingSizesEvery} progress={found.progress} />
      )}
      {found.error && <p className="mt-2 text-short">{found.error.message}</p>}
      {data && (
        <>
          <p className="mt-2">
            {data.proof}. At the firm’s prices (Materials), the total is{" "}
            <span className="figure">{total(data.before)}</span> now and{" "}
            <span className="figure">{total(data.after)}</span> with these sizes; copper{" "}
            <span className="figure">
              {shortFigure(data.before.copper_kg)} → {shortFigure(data.after.copper_kg)} kg
            </span>
            .
          </p>
          <Left say={LEAST_COST.noSizeFixes} of={data.unsolved} names={names} wrong />
          <Left say={LEAST_COST.notKnownWant} of={data.unknown} names={names} />
          <Left say={LEAST_COST.behindFeedOne} of={data.waiting} names={names} />
          {moved.length === 0 ? (
            <p className="mt-2">{LEAST_COST.sizesEnteredCheapest}</p>
          ) : (
            <>
              <table className="mt-2 w-full max-w-3xl" data-cheapest>
                <thead>
                  <tr className="border-hair border-b text-left text-faded">
                    <th className="font-normal">use</th>
                    <th className="font-normal">circuit</th>
                    <th className="text-right font-normal">before</th>
                    <th className="text-right font-normal">after</th>
                    <th className="text-right font-normal">cost, without VAT</th>
                    <th className="text-right font-normal">copper</th>
                  </tr>
                </thead>
                <tbody>
                  {moved.map((c) => (
                    <tr key={c.circuit} className="border-hair border-b">
                      <td className="py-1">
                        <input
                          type="checkbox"
                          className="block h-5 w-5"
                          aria-label={`Take the size of ${names.get(c.circuit)}`}
                          checked={!left.has(c.circuit)}
                          onChange={(event) => {
                            const now = new Set(left);
                            if (event.target.checked) now.delete(c.circuit);
                            else now.add(c.circuit);
                            setLeft(now);
                          }}
                        />
                      </td>
                      <td>{names.get(c.circuit)}</td>
                      <td className="figure text-right">
                        {c.before === null ? "none" : `${shortFigure(c.before)} mm²`}
                      </td>
                      <td className="figure text-right">{shortFigure(c.csa ?? 0)} mm²</td>
                      <td className="figure text-right">{signed(c.cost, 2, moneyShown().currency)}</td>
                      <td className="figure text-right">{signed(c.copper, 1)} kg</td>
                    </tr>
                  ))}
                </tbody>
              </table>
              <p className="mt-2">
                <Button strong disabled={taking.length === 0} onClick={take}>
                  {all ? "use these sizes" : `use ${taking.length} of ${moved.length}`}
                </Button>
                {!all && <span className="ml-3 text-faded">{LEAST_COST.theseWereFound}</span>}
              </p>
            </>
          )}
        </>
      )}
    </details>
  );
}

const total = (cost: { cable: number; laying: number; device: number; digging: number }) =>
  pounds(cost.cable + cost.laying + cost.device + cost.digging, 0);
const signed = (value: number, places: number, unit = "") =>
  `${value > 0 ? "+" : value < 0 ? "−" : ""}${unit}${Math.abs(value).toFixed(places)}`;

/** Who is left without a size, and why; nothing where nobody is. */
function Left({ say, of, names, wrong }: { say: string; of: string[]; names: Map<string, string>; wrong?: boolean }) {
  if (of.length === 0) return null;
  return (
    <p className={`mt-1 ${wrong ? "text-short" : ""}`}>
      {say} {of.map((id) => names.get(id)).join(", ")}.
    </p>
  );
}
