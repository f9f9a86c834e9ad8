import { useQueryClient } from "@tanstack/react-query";
import { useEffect, useRef, useState } from "react";
import { breaks } from "../../api/client";
import type { Break } from "../../api/types";
import { useJob, useStore } from "../../sync/job-context";
import { Button } from "../../ui/controls";
import { glued } from "../../ui/quantity";
import { ONCE_SAVED, SMALLEST_BREAKS } from "./words";

/** For every circuit the least change that makes it fall short, asked one after the other, with how far the search is. */
export function SmallestBreaks({ onCircuit }: { onCircuit: (id: string) => void }) {
  const store = useStore();
  const client = useQueryClient();
  const { inputs, state, unsent } = useJob();
  const [found, setFound] = useState<ReadonlyMap<string, readonly Break[]>>(new Map());
  const [looking, setLooking] = useState(false);
  const [of, setOf] = useState<number | null>(null);
  const [why, setWhy] = useState("");
  const going = useRef(true);
  useEffect(() => {
    going.current = true;
    return () => {
      going.current = false;
    };
  }, []);
  const version = state?.version ?? 0;
  const look = async () => {
    setLooking(true);
    setWhy("");
    setFound(new Map());
    setOf(version);
    try {
      for (const circuit of inputs?.circuits ?? []) {
        if (!going.current) return;
        const one = await client.fetchQuery({
          queryKey: ["breaks", circuit.id, version],
          queryFn: ({ signal }) => breaks(store.job, circuit.id, { signal, told: () => {} }),
          retry: false,
        });
        setFound((before) => new Map(before).set(circuit.id, one));
      }
    } catch (error) {
      setWhy(error instanceof Error ? error.message : "no answer");
    }
    setLooking(false);
  };
  const count = inputs?.circuits.length ?? 0;
  const stale = of !== null && of !== version;
  const short = new Set(state?.summaries.filter((s) => s.verdict === "short").map((s) => s.id));
  return (
    <section className="mt-8" aria-label={SMALLEST_BREAKS.nearestFailure}>
      <h2 className="font-semibold text-xl">{SMALLEST_BREAKS.nearestFailure}</h2>
      <p className="mt-1 text-faded">{SMALLEST_BREAKS.smallestChangeWould}</p>
      <p className="mt-2 flex items-baseline gap-3">
        <Button disabled={looking || unsent > 0} onClick={() => void look()}>
          {of === null ? "find them" : "look again"}
        </Button>
        {unsent > 0 && !looking && <span className="text-faded">{ONCE_SAVED}</span>}
        {looking && (
          <span role="status">
            {found.size} of {count} done
          </span>
        )}
        {stale && !looking && <span className="text-close">{SMALLEST_BREAKS.jobHasChanged}</span>}
      </p>
      {why && <p className="text-short">{why}</p>}
      <ul className="mt-2" data-breaks>
        {inputs?.circuits
          .filter((c) => found.has(c.id))
          .map((c) => {
            const [first, ...more] = found.get(c.id) ?? [];
            return (
              <li
                key={c.id}
                className="grid grid-cols-[14rem_1fr] gap-x-3 border-hair border-t py-1 max-sm:grid-cols-1"
              >
                <button type="button" className="word justify-self-start" onClick={() => onCircuit(c.id)}>
                  {c.name || "Unnamed circuit"}
                </button>
                <div>
                  {first ? (
                    <details>
                      <summary className="cursor-pointer hover:bg-lit">
                        <span className="font-semibold">{glued(first.text)}</span>
                        <span className="text-faded">
                          : {first.check.toLowerCase()}, {glued(first.reason)}
                        </span>
                      </summary>
                      <ul className="ml-5 list-disc">
                        {more.map((b) => (
                          <li key={b.id}>
                            {glued(b.text)}
                            <span className="text-faded">: {b.check.toLowerCase()}</span>
                          </li>
                        ))}
                      </ul>
                    </details>
                  ) : short.has(c.id) ? (
                    <span className="text-short">{SMALLEST_BREAKS.fails}</span>
                  ) : (
                    <span className="text-faded">{SMALLEST_BREAKS.nothingLikelyMakes}</span>
                  )}
                </div>
              </li>
            );
          })}
      </ul>
    </section>
  );
}
