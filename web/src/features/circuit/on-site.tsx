import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { useNavigate } from "react-router";
import { reaches, readings } from "../../api/client";
import type { Circuit, CircuitResult, Comparison } from "../../api/types";
import { FigureList } from "../../parts/figure-list";
import { More } from "../../parts/more";
import { PartFields } from "../../parts/part-fields";
import { usePaths } from "../../parts/paths";
import { setFields, useJob, useStore } from "../../sync/job-context";
import { glued, quantity } from "../../ui/quantity";

const WORDS: Record<Comparison["found"], string> = {
  within: "as predicted",
  above: "above",
  below: "below",
  not_known: "not read",
};
const TONES: Record<Comparison["found"], string> = {
  within: "text-meets",
  above: "text-short",
  below: "text-short",
  not_known: "text-faded",
};

/** What the instrument should show, what it showed, and what a difference is likely to mean. */
export function OnSite({ circuit, result }: { circuit: Circuit; result: CircuitResult | null }) {
  const store = useStore();
  const { state, unsent } = useJob();
  const navigate = useNavigate();
  const paths = usePaths();
  const [reading, setReading] = useState(false);
  const [reaching, setReaching] = useState(false);
  const found = useQuery({
    queryKey: ["readings", circuit.id, state?.version],
    queryFn: () => readings(store.job, circuit.id),
    enabled: reading && unsent === 0,
    placeholderData: (before) => before,
    retry: false,
  });
  const reach = useQuery({
    queryKey: ["reach", circuit.id, state?.version],
    queryFn: () => reaches(store.job, circuit.id),
    enabled: reaching && unsent === 0,
    placeholderData: (before) => before,
    retry: false,
  });
  return (
    <>
      <More title="Readings" note="predicted at the temperature of the reading, and compared" onOpen={setReading}>
        <p className="mb-3 text-faded">
          Zs, Ipf and RCD times are read on a live circuit: for a competent person, with leads and protection to match.
        </p>
        <PartFields
          kind="readings"
          values={circuit.readings}
          onSave={(fields) => store.edit([setFields("circuit", circuit.id, { readings: fields })])}
        />
        <ul className="mt-3" data-readings>
          {found.data?.map((one) => (
            <li
              key={one.id}
              data-reading={one.id}
              className="grid grid-cols-[11rem_7rem_1fr] items-baseline gap-x-3 border-hair border-t py-1.5 max-sm:grid-cols-1"
            >
              <span className="font-semibold">{one.title}</span>
              <span className={one.over ? "text-short" : TONES[one.found]}>
                {one.over ? "over the limit" : WORDS[one.found]}
              </span>
              <span>
                {glued(one.text)}
                {one.limit !== null && (
                  <span className="text-faded">{glued(`; a reading may show ${quantity(one.limit, one.unit)}`)}</span>
                )}
                {one.causes.length > 0 && (
                  <span className="block text-faded">Likely, in order: {one.causes.join("; ")}.</span>
                )}
              </span>
            </li>
          ))}
        </ul>
      </More>
      <More title="Fault currents" note="at the board and at the far point, each with its working">
        {result && <FigureList figures={result.figures} onTable={(cite) => navigate(paths.table(cite.table, cite))} />}
      </More>
      <More title="Reach" note="how long the run may be, check by check" onOpen={setReaching}>
        <ul>
          {reach.data?.map((one) => (
            <li key={one.check} className="grid grid-cols-[18rem_1fr] border-hair border-t py-1 max-sm:grid-cols-1">
              <span>{one.title}</span>
              <span className="figure">
                {one.longest === null
                  ? "no length decides it"
                  : glued(`${quantity(one.longest, "m")}, now ${quantity(one.now, "m")}`)}
              </span>
            </li>
          ))}
        </ul>
      </More>
    </>
  );
}
