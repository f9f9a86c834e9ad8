import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { type Why, whyAsked } from "../api/client";
import { useRules } from "../sync/job-context";
import { glued } from "../ui/quantity";

/** Why checks are asked and what symbols are: the words of the rule set, fetched when they are first wanted. */
function useWhy(wanted: boolean): Why | undefined {
  const ruleset = useRules().id;
  return useQuery({
    queryKey: ["why", ruleset],
    queryFn: () => whyAsked(ruleset),
    enabled: wanted,
    staleTime: Number.POSITIVE_INFINITY,
  }).data;
}

/**
 * What a symbol is in a check: there alone, else by itself or, for one of a part, by what stands before its comma; nothing for a word that says it
 * itself. The server asks the same way (core/findings/why).
 */
export function symbolOf(symbols: Why["symbols"], symbol: string, check: string): string | undefined {
  const tried = [`${check}/${symbol}`, symbol, symbol.replace(/′$/, ""), symbol.split(",")[0] ?? ""];
  for (const one of tried) {
    const found = symbols.find((s) => s.symbol === one);
    if (found) return found.told;
  }
  return undefined;
}

/** Why a check is asked: what it guards against, what goes wrong, where practitioners differ. */
export function WhyCheck({ check }: { check: string }) {
  const [open, setOpen] = useState(false);
  const found = useWhy(open)?.checks.find((c) => c.id === check);
  return (
    <details onToggle={(event) => setOpen(event.currentTarget.open)}>
      <summary className="min-h-6 cursor-pointer text-faded hover:bg-lit">why this?</summary>
      {open && found && (
        <div className="border-hair border-l-4 pl-3">
          <p>{glued(found.guards)}</p>
          <p className="mt-1">{glued(found.wrong)}</p>
          {found.differ && (
            <p className="mt-1 text-faded">
              <span className="font-semibold">Where opinions differ.</span> {glued(found.differ)}
            </p>
          )}
        </div>
      )}
    </details>
  );
}

/** A symbol of the working that says what it is when it is asked. */
export function Symbolic({ symbol, check }: { symbol: string; check: string }) {
  const [open, setOpen] = useState(false);
  const known = useWhy(true);
  const told = known && symbolOf(known.symbols, symbol, check);
  if (!told) return <span className="min-w-14 font-semibold">{symbol}</span>;
  return (
    <>
      <button
        type="button"
        className="min-h-6 min-w-14 text-left font-semibold underline decoration-dotted decoration-1 underline-offset-4 hover:bg-lit"
        aria-expanded={open}
        title={told}
        onClick={() => setOpen(!open)}
      >
        {symbol}
      </button>
      {open && <span className="order-last w-full border-hair border-l-4 pl-2 font-sans">{glued(told)}</span>}
    </>
  );
}
