import { useQuery } from "@tanstack/react-query";
import { Link } from "react-router";
import { listRechecks, type RecheckLine } from "../../api/client";
import { pathsOf } from "../../parts/paths";
import { glued } from "../../ui/quantity";
import { clockOf, dayOf } from "../../ui/time";
import { Mark, WORDS } from "../../ui/verdict";
import { RECHECKS } from "./words";

type Turn = RecheckLine["turned"][number];
const isVerdict = (text: string): text is keyof typeof WORDS => text in WORDS;
const worded = (text: string) => (isVerdict(text) ? WORDS[text] : "not required");

/** What turned in all jobs of the firm when a cell was read or a pack came in anew, by clause. */
export function Rechecks() {
  const found = useQuery({
    queryKey: ["rechecks"],
    queryFn: listRechecks,
    // One that is still worked on is looked at again; nothing is asked where all are done.
    refetchInterval: (query) => (query.state.data?.some((r) => r.share < 1) ? 2000 : false),
  });
  const all = found.data ?? [];
  return (
    <section className="mt-8" aria-label={RECHECKS.changedVerdicts}>
      <h2 className="font-semibold text-xl">{RECHECKS.changedVerdicts}</h2>
      <p className="text-faded">{RECHECKS.whenTableValue}</p>
      {found.data && all.length === 0 && <p className="mt-2">{RECHECKS.noChangeSo}</p>}
      {all.map((one) => (
        <details key={one.id} className="border-hair border-t py-2" open={one.turned.length > 0} data-recheck={one.id}>
          <summary className="cursor-pointer hover:bg-lit">
            <strong>{one.cause}</strong>{" "}
            <span className="text-faded">
              {one.by && `${one.by}, `}
              {dayOf(one.at)} {clockOf(one.at)}
            </span>
            {": "}
            {one.share < 1 ? (
              <span role="status">working, {Math.round(one.share * 100)} %</span>
            ) : (
              <span>
                {one.turned.length === 0 ? "none changed" : `${one.turned.length} changed`}
                {one.moved.length > 0 && `, ${one.moved.length} ${one.moved.length === 1 ? "figure" : "figures"} moved`}
                , {one.jobs} {one.jobs === 1 ? "job" : "jobs"} checked
              </span>
            )}
          </summary>
          {byClause(one.turned).map(([clause, turns]) => (
            <div key={clause} className="mt-2">
              <h3 className="font-semibold">{clause || "without a clause"}</h3>
              <ul>
                {turns.map((t) => (
                  <li key={`${t.job} ${t.part} ${t.check}`} className="border-hair border-t py-1">
                    <Link className="word" to={pathsOf(t.job).attention}>
                      {t.name}
                    </Link>
                    , {t.part}, {t.check.toLowerCase()}: {worded(t.before)} →{" "}
                    {isVerdict(t.after) && <Mark verdict={t.after} />} <strong>{worded(t.after)}</strong>
                    <span className="text-faded">, {glued(t.text)}</span>
                  </li>
                ))}
              </ul>
            </div>
          ))}
          {one.moved.length > 0 && (
            <details className="mt-2" data-moved>
              <summary className="cursor-pointer hover:bg-lit">{RECHECKS.moved}</summary>
              <ul>
                {one.moved.map((t) => (
                  <li key={`${t.job} ${t.part} ${t.check}`} className="border-hair border-t py-1">
                    <Link className="word" to={pathsOf(t.job).attention}>
                      {t.name}
                    </Link>
                    , {t.part}, {t.check.toLowerCase()}: <span className="text-faded">{glued(t.before)}</span> →{" "}
                    {glued(t.text)}
                  </li>
                ))}
              </ul>
            </details>
          )}
        </details>
      ))}
    </section>
  );
}

function byClause(turned: readonly Turn[]): [string, Turn[]][] {
  const found = new Map<string, Turn[]>();
  for (const one of turned) found.set(one.clause, [...(found.get(one.clause) ?? []), one]);
  return [...found].sort(([a], [b]) => a.localeCompare(b, undefined, { numeric: true }));
}
