import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { holds } from "../../api/client";
import { useJob, useStore } from "../../sync/job-context";
import { glued } from "../../ui/quantity";
import { Mark } from "../../ui/verdict";

interface Props {
  names: Map<string, string>;
  onCircuit: (id: string) => void;
}

/** Would it still hold with lengths, supply, temperature or insulation a little worse? */
export function Holds({ names, onCircuit }: Props) {
  const store = useStore();
  const { state, unsent } = useJob();
  const [open, setOpen] = useState(false);
  const found = useQuery({
    queryKey: ["holds", store.job, state?.version],
    queryFn: () => holds(store.job),
    enabled: open && unsent === 0,
    retry: false,
  });
  return (
    <details className="mt-8" onToggle={(event) => setOpen(event.currentTarget.open)}>
      <summary className="cursor-pointer font-semibold text-xl hover:bg-lit">Would it still hold?</summary>
      {found.isPending && open && <p className="mt-2 text-faded">Checking the job four times over …</p>}
      {found.data?.map((variant) => {
        const lost = variant.circuits.filter((c) => c.lost);
        const worst = lost.some((c) => c.after === "short") ? "short" : lost.length > 0 ? "not_known" : "meets";
        return (
          <div key={variant.id} className="mt-3" data-variant={variant.id}>
            <h3 className="font-semibold">
              <Mark verdict={worst} /> {variant.title}
            </h3>
            {!variant.applies && <p className="text-faded">Changes nothing here.</p>}
            {variant.applies && lost.length === 0 && (
              <p>No circuit falls short or is left unknown that was not before.</p>
            )}
            <ul>
              {lost.map((c) => (
                <li key={c.circuit}>
                  <button type="button" className="word" onClick={() => onCircuit(c.circuit)}>
                    {names.get(c.circuit)}
                  </button>
                  {": "}
                  {glued(c.reason)}
                </li>
              ))}
            </ul>
          </div>
        );
      })}
    </details>
  );
}
