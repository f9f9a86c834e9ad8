import { assumptions } from "../../api/client";
import type { Assumption } from "../../api/types";
import { CutShort, Progress, useSearch } from "../../parts/use-search";
import { useJob, useStore } from "../../sync/job-context";
import { glued } from "../../ui/quantity";
import { useWords } from "../../ui/sentence";
import { ASSUMPTIONS, WORD_OF } from "./words";

/** What nobody measured yet, and what it costs if it turns out otherwise; the one that moves most verdicts is to be read first. */
export function Assumptions({ onCircuit }: { onCircuit: (id: string) => void }) {
  const store = useStore();
  const { inputs, asOf, settled } = useJob();
  const found = useSearch(["assumptions", store.job, asOf], (watch) => assumptions(store.job, watch), {
    enabled: settled,
    keep: true,
  });
  const words = useWords();
  const names = new Map(inputs?.circuits.map((c) => [c.id, c.name || "an unnamed circuit"]));
  return (
    <section className="mt-6" aria-label={ASSUMPTIONS.whatAssumed} aria-busy={found.isFetching}>
      <h2 className="font-semibold text-xl">{ASSUMPTIONS.whatNotMeasured}</h2>
      {found.progress && <Progress say={ASSUMPTIONS.tryingOtherLikely} progress={found.progress} />}
      <CutShort found={found.data} />
      {found.data?.length === 0 && <p className="mt-1">{ASSUMPTIONS.everySupplyValue}</p>}
      <ul className="mt-1">
        {found.data?.map((one) => (
          <li
            key={one.field + one.board}
            data-assumption={one.field}
            data-first={one.first || undefined}
            className="border-hair border-t py-2"
          >
            <p>
              <button
                type="button"
                className={`word ${one.source === "assumed" ? "hatch" : ""}`}
                onClick={() => words.open(WORD_OF[one.field] ?? "")}
              >
                {glued(one.told)}
              </button>
              {one.first && <strong className="ml-2 text-copper">{ASSUMPTIONS.measureFirstAffects}</strong>}
            </p>
            {one.instead.map((other) => (
              <Otherwise key={other.text} other={other} names={names} onCircuit={onCircuit} />
            ))}
            {one.instead.length === 0 && <p className="text-faded">{ASSUMPTIONS.setWorstValue}</p>}
          </li>
        ))}
      </ul>
    </section>
  );
}

interface OtherProps {
  other: Assumption["instead"][number];
  names: Map<string, string>;
  onCircuit: (id: string) => void;
}

function Otherwise({ other, names, onCircuit }: OtherProps) {
  const calm = other.worse.length === 0 && other.better.length === 0 && other.places.length === 0;
  return (
    <p className={calm ? "text-faded" : ""}>
      {glued(other.text)}: {calm && "no verdict changes"}
      {other.worse.length > 0 && (
        <>
          <span className="text-short">
            {other.worse.length} {other.worse.length === 1 ? "circuit fails" : "circuits fail"}
          </span>
          {": "}
          {other.worse.map((id, i) => (
            <span key={id}>
              {i > 0 && ", "}
              <button type="button" className="word" onClick={() => onCircuit(id)}>
                {names.get(id)}
              </button>
            </span>
          ))}
        </>
      )}
      {other.better.length > 0 && ` ${other.better.length} would then meet`}
      {other.places.length > 0 && (
        <span className="text-short"> fails then: {other.places.join(", ").toLowerCase()}</span>
      )}
    </p>
  );
}
