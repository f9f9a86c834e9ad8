import { type ReactNode, useEffect, useState } from "react";
import { Link } from "react-router";
import { usePaths } from "../../parts/paths";
import { useWho } from "../../parts/person";
import { useJob } from "../../sync/job-context";
import { glued } from "../../ui/quantity";
import { remembered } from "../../ui/remembered";
import { Mark, TONE, WORDS } from "../../ui/verdict";
import { Statement } from "../circuit/statement";
import { FIRST_VISIT } from "./words";

const VERDICTS = ["meets", "close", "short", "not_known"] as const;
const AWAY_KEY = "mellow-span/tries-away/";

/** Three things to try, shown in the job a first visit opens until they are put away; then, and elsewhere, what is given instead. */
export function FirstVisit({ children }: { children: ReactNode }) {
  const me = useWho();
  const paths = usePaths();
  const { state, inputs } = useJob();
  const [away, setAway] = useState(() => (state ? remembered.get(AWAY_KEY + state.id) === "1" : false));
  /** The circuit to try it on: once chosen it stays, also when it has come to meet. */
  const [tried, setTried] = useState<string | null>(null);
  const worst = state?.attention.find((a) => a.level === "short" && a.circuit !== null)?.circuit ?? null;
  const on = tried ?? worst;
  useEffect(() => setTried((before) => before ?? worst), [worst]);
  if (!state || !inputs || away || me.data?.opens_with !== state.id) return children;
  const circuit = inputs.circuits.find((c) => c.id === on);
  const result = state.summaries.find((c) => c.id === on);
  return (
    <section className="mt-3 border-copper border-l-4 pl-4" aria-label={FIRST_VISIT.threeThingsTry} data-first-visit>
      <h2 className="font-semibold">
        {FIRST_VISIT.madeUpHouse} <kbd className="key">{FIRST_VISIT.ctrlZ}</kbd> undoes a change.
      </h2>
      <ol className="mt-1 list-decimal pl-5">
        {circuit && result && (
          <li className="py-0.5">
            {result.verdict === "short" ? FIRST_VISIT.changeHere : FIRST_VISIT.changed}
            <div className="mt-1 border-hair border-y py-2" data-first-step={result.verdict}>
              <Statement circuit={circuit} />
              <p className="mt-1" role="status">
                <Mark verdict={result.verdict} /> <strong className={TONE[result.verdict]}>{result.headline}</strong>{" "}
                {result.verdict === "short" ? glued(`${result.reason}.`) : FIRST_VISIT.takeBack}{" "}
                <Link className="word" to={paths.circuit(circuit.id, { check: null })}>
                  {FIRST_VISIT.seeWhy}
                </Link>
              </p>
            </div>
          </li>
        )}
        <li className="py-0.5">
          Press <kbd className="key">n</kbd> (on a phone: menu, new circuit) and type one in a line:{" "}
          <span className="font-semibold">{FIRST_VISIT.towelRail600w}</span>.
        </li>
        <li className="py-0.5">
          Ask{" "}
          <Link className="word" to={paths.whatIf}>
            {FIRST_VISIT.whatIf}
          </Link>{" "}
          {FIRST_VISIT.zeCameOut}
        </li>
      </ol>
      <p className="mt-1 flex flex-wrap gap-x-4" data-verdict-key>
        {VERDICTS.map((verdict) => (
          <span key={verdict} className="whitespace-nowrap">
            <Mark verdict={verdict} /> {WORDS[verdict]}
          </span>
        ))}
      </p>
      <button
        type="button"
        className="word mt-2"
        onClick={() => {
          remembered.set(AWAY_KEY + state.id, "1");
          setAway(true);
        }}
      >
        {FIRST_VISIT.hide}
      </button>
    </section>
  );
}
