import { type KeyboardEvent, useRef } from "react";
import type { Check } from "../../api/types";
import { Moved } from "../../ui/moved";
import { glued, percent } from "../../ui/quantity";
import { Mark, TONE, WORDS } from "../../ui/verdict";
import { CHECKS } from "./words";

interface Props {
  checks: readonly Check[];
  open: string | null;
  onOpen: (id: string) => void;
}

/** The checks in the order they are done; the chosen one has its working beside it. */
export function Checks({ checks, open, onOpen }: Props) {
  const list = useRef<HTMLUListElement>(null);
  const onKeyDown = (event: KeyboardEvent) => {
    const step = event.key === "ArrowDown" ? 1 : event.key === "ArrowUp" ? -1 : 0;
    if (step === 0) return;
    event.preventDefault();
    const rows = [...(list.current?.querySelectorAll<HTMLElement>("button") ?? [])];
    rows[rows.indexOf(document.activeElement as HTMLElement) + step]?.focus();
  };
  return (
    <section aria-label={CHECKS.checks} className="mt-5">
      <h2 className="border-hair border-b pb-1 font-semibold">{CHECKS.checksOrderThey}</h2>
      <ul ref={list} onKeyDown={onKeyDown}>
        {checks.map((check) => (
          <li key={check.id} className="border-hair border-b">
            <button
              type="button"
              data-check={check.id}
              data-verdict={check.verdict}
              aria-pressed={check.id === open}
              className="grid w-full grid-cols-[1.4rem_10.5rem_1fr_5.9rem] items-baseline gap-x-2 border-copper py-1.5 text-left hover:bg-lit aria-pressed:border-l-4 aria-pressed:bg-leaf aria-pressed:pl-1 max-sm:grid-cols-[1.4rem_1fr]"
              onClick={() => onOpen(check.id)}
            >
              <Mark verdict={check.verdict} />
              <span className="font-semibold">{check.title}</span>
              <span className="max-sm:col-start-2">
                <Moved value={check.text}>{glued(check.text)}</Moved>
                <Tags check={check} />
              </span>
              <span
                className={`figure text-right ${check.decides ? TONE[check.verdict] : "text-faded"} max-sm:col-start-2 max-sm:text-left`}
              >
                {check.margin === null ? WORDS[check.verdict] : percent(check.margin)}
              </span>
            </button>
          </li>
        ))}
      </ul>
    </section>
  );
}

function Tags({ check }: { check: Check }) {
  return (
    <>
      {!check.decides && <span className="text-faded"> {CHECKS.informationOnly}</span>}
      {check.assumed.length > 0 && <span className="hatch ml-1 px-1">{check.assumed.join(", ")} assumed</span>}
      {check.doubtful && <span className="ml-1 text-close">{CHECKS.tableValueStill}</span>}
    </>
  );
}
