import type { Check, Cited, Step } from "../api/types";
import { columnHead } from "../ui/column-head";
import { glued, percent, shortFigure } from "../ui/quantity";
import { Mark, TONE, WORDS } from "../ui/verdict";
import { Symbolic, WhyCheck } from "./why";

/** Checks that stand outside a circuit, each opening to its working in place. */
export function CheckList({ checks, onTable }: { checks: readonly Check[]; onTable: (cite: Cited) => void }) {
  if (checks.length === 0) return null;
  return (
    <ul className="mt-2">
      {checks.map((check) => (
        <li key={check.id} className="border-hair border-t" data-check={check.id} data-verdict={check.verdict}>
          <details>
            <summary className="grid cursor-pointer grid-cols-[1.4rem_12rem_1fr_5.5rem] items-baseline gap-x-2 py-1.5 hover:bg-lit max-sm:grid-cols-[1.4rem_1fr]">
              <Mark verdict={check.verdict} />
              <span className="font-semibold">{check.title}</span>
              <span className="max-sm:col-start-2">
                {glued(check.text)}
                {check.assumed.length > 0 && (
                  <span className="hatch ml-1 px-1">{check.assumed.join(", ")} assumed</span>
                )}
                {check.doubtful && (
                  <span className="ml-1 text-close">† a value to be checked against the printed table</span>
                )}
              </span>
              <span className={`figure text-right ${TONE[check.verdict]} max-sm:hidden`}>
                {check.margin === null ? WORDS[check.verdict] : percent(check.margin)}
              </span>
            </summary>
            <div className="ml-8">
              <WhyCheck check={check.id} />
            </div>
            <Steps steps={check.steps} clause={check.clause} check={check.id} onTable={onTable} />
          </details>
        </li>
      ))}
    </ul>
  );
}

/** The working as lines: symbol, formula, value, and the table a looked-up value stands in. */
interface StepsProps {
  steps: readonly Step[];
  clause?: string;
  /** The check they are of, where they are of one. */
  check?: string;
  onTable: (cite: Cited) => void;
}

export function Steps({ steps, clause, check = "", onTable }: StepsProps) {
  return (
    <ol className="figure mb-2 ml-8 bg-leaf px-3 py-1">
      {clause && <li className="font-sans text-faded">{clause}</li>}
      {steps.map((step, i) => (
        // biome-ignore lint/suspicious/noArrayIndexKey: steps have no identity beyond their order
        <li key={i} className="flex flex-wrap items-baseline gap-x-2 py-0.5">
          <Symbolic symbol={step.symbol} check={check} />
          {step.formula && <span className="text-faded">= {step.formula}</span>}
          <span>= {`${shortFigure(step.value)} ${step.unit}`.trim()}</span>
          {step.cite && step.cite.table !== "LIM" && (
            <button type="button" className="word min-h-6 font-sans" onClick={() => step.cite && onTable(step.cite)}>
              Table {step.cite.table}, {step.cite.row}, {columnHead(step.cite.column)}
            </button>
          )}
          <span className="font-sans text-faded">{[step.clause, step.note].filter(Boolean).join(" · ")}</span>
          {step.cite?.check && <span className="text-close">† to be checked</span>}
        </li>
      ))}
    </ol>
  );
}
