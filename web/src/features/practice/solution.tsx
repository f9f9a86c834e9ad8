import type { Marked } from "../../api/practice";
import { columnHead } from "../../ui/column-head";
import { glued, shortFigure } from "../../ui/quantity";

/** How each line is worked out, and the working of the program for the same circuit. */
export function Solution({ marked }: { marked: Marked }) {
  return (
    <>
      <ul className="figure max-w-3xl">
        {marked.formulas.map((f) => {
          const mark = marked.marks.find((m) => m.id === f.id);
          const how = f.table ? `Table ${f.table}` : f.formula ? `= ${f.formula}` : "";
          return (
            <li key={f.id} className="flex flex-wrap gap-x-3 border-hair border-b py-0.5">
              <span className="min-w-16 font-semibold">{f.id}</span>
              <span className="text-faded">{how}</span>
              <span>{mark && `= ${shortFigure(mark.right)}`}</span>
              {f.clause && <span className="font-sans text-faded">{f.clause}</span>}
            </li>
          );
        })}
      </ul>
      {marked.working.map((check) => (
        <section key={check.id} className="mt-4 max-w-3xl">
          <h3 className="font-semibold">
            {check.title} <span className="font-normal text-faded">({check.clause}), as worked out here</span>
          </h3>
          <p>{glued(check.text)}</p>
          <ol className="figure mt-1">
            {check.steps.map((step, i) => (
              // biome-ignore lint/suspicious/noArrayIndexKey: steps have no identity beyond their order
              <li key={i} className="flex flex-wrap items-baseline gap-x-2 border-hair border-b py-0.5">
                <span className="min-w-14 font-semibold">{step.symbol}</span>
                {step.formula && <span className="text-faded">= {step.formula}</span>}
                <span>= {`${shortFigure(step.value)} ${step.unit}`.trim()}</span>
                <span className="font-sans text-faded">
                  {[
                    step.cite && `Table ${step.cite.table}, ${step.cite.row}, ${columnHead(step.cite.column)}`,
                    step.clause,
                    step.note,
                  ]
                    .filter(Boolean)
                    .join(" · ")}
                </span>
                {step.cite?.check && <span className="text-close">†</span>}
              </li>
            ))}
          </ol>
        </section>
      ))}
    </>
  );
}
