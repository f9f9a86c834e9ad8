import { isCutShort, stageSizes } from "../../api/client";
import type { Change } from "../../api/types";
import { pounds } from "../../parts/price";
import { CutShort, Progress, useSearch } from "../../parts/use-search";
import { useJob, useStore } from "../../sync/job-context";
import { Button } from "../../ui/controls";
import { quantity } from "../../ui/quantity";
import { SIZES } from "./words";

/** New cables that would grow from stage to stage: put in once for the last, or renewed, with money and digging side by side. */
export function GrowingSizes() {
  const store = useStore();
  const { inputs, asOf, settled } = useJob();
  const found = useSearch(["stage-sizes", store.job, asOf], (watch) => stageSizes(store.job, watch), {
    enabled: settled,
    keep: true,
  });
  const names = new Map(inputs?.circuits.map((c) => [c.id, c.name || "Unnamed circuit"]));
  const stages = new Map(inputs?.stages.map((s) => [s.id, s.name]));
  return (
    <section aria-label={SIZES.title} className="mt-6" data-growing>
      <h2 className="font-semibold text-xl">{SIZES.title}</h2>
      <p className="max-w-3xl text-faded">{SIZES.about}</p>
      {found.isPending && <Progress say={SIZES.trying} progress={found.progress} />}
      {found.error && <p className="mt-2 text-short">{found.error.message}</p>}
      {found.data && <CutShort found={found.data} />}
      {found.data?.length === 0 && !isCutShort(found.data) && <p className="mt-2">{SIZES.none}</p>}
      {found.data && found.data.length > 0 && (
        <div className="overflow-x-auto">
          <table className="mt-2 w-full max-w-5xl">
            <thead>
              <tr className="border-hair border-b text-left text-faded">
                <th className="font-normal">{SIZES.circuit}</th>
                <th className="font-normal">{SIZES.each}</th>
                <th className="text-right font-normal">{SIZES.now}</th>
                <th className="text-right font-normal">{SIZES.once}</th>
                <th className="text-right font-normal">{SIZES.renewed}</th>
                <th />
              </tr>
            </thead>
            <tbody>
              {found.data.map((one) => (
                <tr key={one.circuit} className="border-hair border-b align-baseline">
                  <td className="py-1">{names.get(one.circuit)}</td>
                  <td>
                    {one.needed.map((n) => (
                      <span key={n.stage} className="block" title={n.reason}>
                        {stages.get(n.stage)}{" "}
                        <span className="figure">{n.csa === null ? "–" : quantity(n.csa, "mm²")}</span>
                      </span>
                    ))}
                  </td>
                  <td className="figure text-right">{one.csa === null ? "–" : quantity(one.csa, "mm²")}</td>
                  <Price sum={one.once} dug={one.dug} cheaper={one.once <= one.renewed} />
                  <Price sum={one.renewed} dug={one.dug_again} cheaper={one.renewed < one.once} />
                  <td className="text-right">
                    {one.changes.length > 0 ? (
                      <Button onClick={() => store.edit(one.changes as unknown as Change[])}>
                        {SIZES.use} {quantity(one.most, "mm²")}
                      </Button>
                    ) : (
                      <span className="text-faded">{SIZES.chosen}</span>
                    )}
                  </td>
                </tr>
              ))}
            </tbody>
          </table>
        </div>
      )}
    </section>
  );
}

function Price({ sum, dug, cheaper }: { sum: number; dug: number; cheaper: boolean }) {
  return (
    <td className={`text-right ${cheaper ? "font-semibold" : ""}`}>
      <span className="figure">{pounds(sum)}</span>
      {dug > 0 && (
        <span className="block font-normal text-faded">
          {SIZES.dug} <span className="figure">{quantity(dug, "m")}</span>
        </span>
      )}
    </td>
  );
}
