import { useState } from "react";
import type { Advice } from "../../api/types";
import { change, useJob, useStore } from "../../sync/job-context";
import { useTyped } from "../../sync/typed";
import { Button } from "../../ui/controls";
import { inputClass } from "../../ui/editors";
import { glued } from "../../ui/quantity";
import { ADVICE_LIST } from "./words";

const TITLES = { danger: "Danger", duty: "Required", note: "Worth knowing" } as const;

/** The same words for several subjects are told once. */
interface Told {
  lines: Advice[];
  first: Advice;
}

function together(advice: readonly Advice[]): Told[] {
  const found = new Map<string, Told>();
  for (const line of advice) {
    const key = `${line.title}/${line.text}`;
    const there = found.get(key);
    if (there) there.lines.push(line);
    else found.set(key, { lines: [line], first: line });
  }
  return [...found.values()];
}

/** Advice the facts of the job call for. Each piece can be put aside with a reason, and taken up again. */
export function AdviceList({ advice, onCircuit }: { advice: readonly Advice[]; onCircuit: (id: string) => void }) {
  const aside = advice.filter((a) => a.dismissed !== null);
  return (
    <section aria-label={ADVICE_LIST.advice} className="mt-8">
      <h2 className="font-semibold text-xl">{ADVICE_LIST.advice}</h2>
      {(["danger", "duty", "note"] as const).map((weight) => {
        const told = together(advice.filter((a) => a.weight === weight && a.dismissed === null));
        if (told.length === 0) return null;
        return (
          <div key={weight} className="mt-3">
            <h3 className="font-semibold">{TITLES[weight]}</h3>
            <ul>
              {told.map((one) => (
                <Line key={one.first.key} told={one} onCircuit={onCircuit} />
              ))}
            </ul>
          </div>
        );
      })}
      {aside.length > 0 && (
        <details className="mt-3">
          <summary className="cursor-pointer hover:bg-lit">{aside.length} does not apply</summary>
          <ul>
            {aside.map((line) => (
              <Aside key={line.key} line={line} />
            ))}
          </ul>
        </details>
      )}
      <p className="mt-3 max-w-prose text-faded">{ADVICE_LIST.adviceDecidesNothing}</p>
    </section>
  );
}

function Line({ told, onCircuit }: { told: Told; onCircuit: (id: string) => void }) {
  const store = useStore();
  const [asking, setAsking] = useState(false);
  const [reason, setReason] = useTyped(`advice/${told.first.key}`);
  const { first, lines } = told;
  const putAside = () => {
    if (!reason.trim()) return;
    store.edit(
      lines.map((l) =>
        change("add", "dismissal", crypto.randomUUID(), { fields: { key: l.key, reason: reason.trim() } }),
      ),
    );
    setReason("");
  };
  return (
    <li className="border-hair border-t py-2" data-advice={first.key}>
      <p>
        <strong className="font-semibold">{first.title}</strong> <span className="text-faded">({first.clause}),</span>{" "}
        {lines.map((line, i) => (
          <span key={line.key}>
            {i > 0 && ", "}
            {line.circuit ? (
              <button type="button" className="word" onClick={() => line.circuit && onCircuit(line.circuit)}>
                {line.subject}
              </button>
            ) : (
              line.subject
            )}
          </span>
        ))}
        : {glued(first.text)}.{" "}
        {!asking && (
          <button
            type="button"
            className="word"
            aria-label={`Does not apply: ${first.title}, ${lines.map((l) => l.subject).join(", ")}`}
            onClick={() => setAsking(true)}
          >
            {ADVICE_LIST.doesNotApply}
          </button>
        )}
      </p>
      {asking && (
        <form
          className="mt-1 flex gap-2"
          onSubmit={(event) => {
            event.preventDefault();
            putAside();
          }}
        >
          <input
            // biome-ignore lint/a11y/noAutofocus: the field was asked for
            autoFocus
            className={inputClass}
            aria-label={ADVICE_LIST.whyDoesNot}
            placeholder={ADVICE_LIST.whyDoesNotApply}
            maxLength={200}
            value={reason}
            onChange={(event) => setReason(event.target.value)}
          />
          <Button type="submit" disabled={!reason.trim()}>
            {ADVICE_LIST.doesNotApply}
          </Button>
          <Button onClick={() => setAsking(false)}>cancel</Button>
        </form>
      )}
    </li>
  );
}

function Aside({ line }: { line: Advice }) {
  const store = useStore();
  const { inputs } = useJob();
  const back = () =>
    store.edit(
      (inputs?.dismissals ?? []).filter((d) => d.key === line.key).map((d) => change("remove", "dismissal", d.id)),
    );
  return (
    <li className="border-hair border-t py-1">
      {line.subject}: {line.title}. Not applicable: {line.dismissed}.{" "}
      <button type="button" className="word" onClick={back}>
        {ADVICE_LIST.showAgain}
      </button>
    </li>
  );
}
