import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { Link, useNavigate } from "react-router";
import { reaches } from "../../api/client";
import type { Circuit, CircuitResult } from "../../api/types";
import { FigureList } from "../../parts/figure-list";
import { More } from "../../parts/more";
import { usePaths } from "../../parts/paths";
import { useJob, useStore } from "../../sync/job-context";
import { glued, quantity } from "../../ui/quantity";
import { ON_SITE } from "./words";

/** What the instrument should show, what it showed, and what a difference is likely to mean. */
export function OnSite({ circuit, result }: { circuit: Circuit; result: CircuitResult | null }) {
  const store = useStore();
  const { asOf, settled } = useJob();
  const navigate = useNavigate();
  const paths = usePaths();
  const [reaching, setReaching] = useState(false);
  const reach = useQuery({
    queryKey: ["reach", circuit.id, asOf],
    queryFn: () => reaches(store.job, circuit.id),
    enabled: reaching && settled,
    placeholderData: (before) => before,
    retry: false,
  });
  return (
    <>
      <p className="mt-4">
        <Link className="word" to={paths.tests(circuit.id)}>
          {ON_SITE.testResults}
        </Link>{" "}
        <span className="text-faded">{ON_SITE.whatTesterShould}</span>
      </p>
      <More title={ON_SITE.prospectiveFaultCurrents} note="at the board and the far end, each with its working">
        {result && <FigureList figures={result.figures} onTable={(cite) => navigate(paths.table(cite.table, cite))} />}
      </More>
      <More title={ON_SITE.maximumLength} note="the longest run each check allows" onOpen={setReaching}>
        <ul>
          {reach.data?.map((one) => (
            <li key={one.check} className="grid grid-cols-[18rem_1fr] border-hair border-t py-1 max-sm:grid-cols-1">
              <span>{one.title}</span>
              <span className="figure">
                {one.longest === null
                  ? one.passing === "none"
                    ? "no length passes, not the shortest either"
                    : "any length passes"
                  : glued(`${quantity(one.longest, "m")}, now ${quantity(one.now, "m")}`)}
              </span>
            </li>
          ))}
        </ul>
      </More>
    </>
  );
}
