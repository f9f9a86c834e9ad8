import { useState } from "react";
import { routeTryouts } from "../../api/client";
import type { Change, Tryout } from "../../api/types";
import { CutShort, Progress, useSearch } from "../../parts/use-search";
import { useJob, useStore } from "../../sync/job-context";
import { Button } from "../../ui/controls";
import { glued, quantity } from "../../ui/quantity";
import { Mark, WORDS } from "../../ui/verdict";
import { TRYOUTS } from "./words";

/** What can be tried with a route, each worked out for the whole job; nothing changes until one is taken. */
export function Tryouts({ route, names }: { route: string; names: Map<string, string> }) {
  const store = useStore();
  const { asOf, settled } = useJob();
  const [open, setOpen] = useState(false);
  const found = useSearch(["tryouts", route, asOf], (watch) => routeTryouts(store.job, route, watch), {
    enabled: open && settled,
  });
  return (
    <details className="mt-3 border-hair border-t pt-2" onToggle={(event) => setOpen(event.currentTarget.open)}>
      <summary className="cursor-pointer py-1 font-semibold hover:bg-lit">
        Try a change <span className="font-normal text-faded">{TRYOUTS.seeWhatDoes}</span>
      </summary>
      {open && found.isPending && <Progress say={TRYOUTS.workingOut} progress={found.progress} />}
      <CutShort found={found.data} />
      {found.error && <p className="text-short">{found.error.message}</p>}
      <div className="mt-2 grid grid-cols-3 gap-5 max-md:grid-cols-1">
        {found.data?.map((one) => (
          <OneTryout
            key={one.id}
            one={one}
            names={names}
            onTake={() => store.edit(one.changes as unknown as Change[])}
          />
        ))}
      </div>
    </details>
  );
}

function OneTryout({ one, names, onTake }: { one: Tryout; names: Map<string, string>; onTake: () => void }) {
  const worse = one.effects.filter((e) => e.worse).length;
  const better = one.effects.filter((e) => e.better).length;
  return (
    <div data-tryout={one.id}>
      <h4 className="font-semibold">{glued(one.title)}</h4>
      {one.why ? (
        <p className="text-faded">{one.why}</p>
      ) : (
        <>
          <p className="text-faded">
            {one.effects.length === 0
              ? "changes no circuit"
              : [
                  better > 0 && `${better} better off`,
                  worse > 0 && `${worse} worse off`,
                  better + worse === 0 && "no verdict changes",
                ]
                  .filter(Boolean)
                  .join(", ")}
          </p>
          <ul className="mt-1">
            {one.effects.map((e) => (
              <li key={e.circuit} className="grid grid-cols-[1fr_auto] gap-x-2 border-hair border-t py-0.5">
                <span className="truncate">{names.get(e.circuit)}</span>
                <span className="figure whitespace-nowrap">
                  {e.iz_before === null ? "?" : quantity(e.iz_before, "A")} →{" "}
                  {e.iz_after === null ? "?" : quantity(e.iz_after, "A")} <Mark verdict={e.before} size={11} /> →{" "}
                  <Mark verdict={e.after} size={11} />
                  <span className="sr-only">{`${WORDS[e.before]}, then ${WORDS[e.after]}`}</span>
                </span>
              </li>
            ))}
          </ul>
          <Button className="mt-2" onClick={onTake}>
            {TRYOUTS.apply}
          </Button>
        </>
      )}
    </div>
  );
}
