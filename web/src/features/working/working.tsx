import { useEffect, useState } from "react";
import type { Check, CircuitResult, Citation, Step } from "../../api/types";
import { Symbolic, WhyCheck } from "../../parts/why";
import { columnHead } from "../../ui/column-head";
import { Moved } from "../../ui/moved";
import { glued, shortFigure } from "../../ui/quantity";
import { Mark } from "../../ui/verdict";
import { substituted } from "./substitute";
import { WORKING } from "./words";

interface Props {
  result: CircuitResult | null;
  check: string | null;
  onTable: (cite: Citation) => void;
  cite: Citation | null;
  children?: React.ReactNode;
}

/** The way to a number: each step with its values put in; a looked-up value opens its table with the cell lit. */
export function Working({ result, check, onTable, cite, children }: Props) {
  const found = result?.checks.find((c) => c.id === check) ?? result?.checks.find((c) => c.id === result.ruling);
  return (
    <section aria-label={WORKING.working} className="flex flex-col gap-3 p-4 pb-0">
      <h2 className="font-semibold text-[1.1rem]">Working{found ? ` · ${found.title.toLowerCase()}` : ""}</h2>
      {!result && <p className="text-faded">{WORKING.openCircuitChoose}</p>}
      {found && <Steps key={found.id} check={found} onTable={onTable} cite={cite} />}
      {children && <div className="sticky bottom-0 border-hair border-t bg-leaf pt-2 pb-3">{children}</div>}
    </section>
  );
}

function Steps({ check, onTable, cite }: { check: Check; onTable: (cite: Citation) => void; cite: Citation | null }) {
  const [all, setAll] = useState(false);
  useEffect(() => setAll(false), []);
  const many = check.steps.length > 14 && !all;
  const steps = many ? check.steps.slice(0, 12) : check.steps;
  return (
    <>
      <p>
        <Mark verdict={check.verdict} /> <Moved value={check.text}>{glued(check.text)}</Moved>{" "}
        <span className="text-faded">({check.clause})</span>
      </p>
      <WhyCheck key={check.id} check={check.id} />
      <ol className="figure border-hair border-t">
        {steps.map((step, i) => (
          <StepLine
            // biome-ignore lint/suspicious/noArrayIndexKey: steps have no identity beyond their order
            key={i}
            step={step}
            check={check.id}
            onTable={onTable}
            lit={cite !== null && same(step.cite, cite)}
          />
        ))}
      </ol>
      {many && (
        <button type="button" className="word self-start" onClick={() => setAll(true)}>
          {check.steps.length - 12} more steps
        </button>
      )}
    </>
  );
}

const same = (a: Citation | null, b: Citation) =>
  a !== null && a.table === b.table && a.row === b.row && a.column === b.column;

interface StepLineProps {
  step: Step;
  check: string;
  onTable: (cite: Citation) => void;
  lit: boolean;
}

function StepLine({ step, check, onTable, lit }: StepLineProps) {
  // Four figures, so that the steps can be followed on a calculator.
  const value = `${shortFigure(step.value)} ${step.unit}`.trim();
  const put = substituted(step);
  const { cite } = step;
  return (
    <li className="border-hair border-b py-1">
      <div className="flex flex-wrap items-baseline gap-x-2">
        <Symbolic symbol={step.symbol} check={check} />
        {step.formula && <span className="text-faded">= {step.formula}</span>}
      </div>
      <div className="flex flex-wrap items-baseline gap-x-2 pl-3">
        {step.formula && put !== step.formula && <span>= {put}</span>}
        <span>=</span>
        {cite ? (
          <button
            type="button"
            className={`word min-h-6 ${lit ? "bg-copper text-on-copper" : "bg-lit"}`}
            aria-label={`${step.symbol} ${value}: show it in table ${cite.table}, row ${cite.row}, column ${cite.column}`}
            onClick={() => onTable(cite)}
          >
            {value}
          </button>
        ) : (
          <span>{value}</span>
        )}
        {cite?.read && (
          <span className="text-meets" title={cite.read}>
            {WORKING.checkedPrint}
          </span>
        )}
        {cite?.check && (
          <span className="text-close" title={WORKING.valueCheckedAgainst}>
            {WORKING.checked}
          </span>
        )}
      </div>
      <div className="pl-3 font-sans text-faded">
        {[
          cite && cite.table !== "LIM" && `Table ${cite.table}, ${cite.row}, ${columnHead(cite.column)}`,
          step.clause,
          step.note,
        ]
          .filter(Boolean)
          .join(" · ")}
      </div>
    </li>
  );
}
