import { useState } from "react";
import { boardOptions, intakeOptions } from "../api/client";
import type { Change, PlaceOption } from "../api/types";
import { useJob, useStore } from "../sync/job-context";
import { Button } from "../ui/controls";
import { glued } from "../ui/quantity";
import { Mark } from "../ui/verdict";
import { pricedOr } from "./price";
import { CutShort, Progress, useSearch } from "./use-search";

/** The cures for what is wrong at the intake or at a board, each worked out for the whole job; nothing changes until one is taken. */
export function PlaceWays({
  board,
  titles,
  only,
}: {
  board: string | null;
  titles: Map<string, string>;
  /** The checks that this view cures; all of them where none is named. */
  only?: readonly string[];
}) {
  const store = useStore();
  const { asOf, settled } = useJob();
  const [open, setOpen] = useState(false);
  const found = useSearch(
    ["place-ways", board, asOf],
    (watch) => (board ? boardOptions(store.job, board, watch) : intakeOptions(store.job, watch)),
    { enabled: open && settled },
  );
  const shown = found.data?.filter((o) => !only || only.includes(o.check));
  const about = [...new Set(shown?.map((o) => o.check))];
  return (
    <details className="mt-2" onToggle={(event) => setOpen(event.currentTarget.open)} data-ways={board ?? "intake"}>
      <summary className="cursor-pointer py-1 font-semibold hover:bg-lit">
        Fixes <span className="font-normal text-faded">each checked across the whole job; prices without VAT</span>
      </summary>
      {open && found.isPending && <Progress say="Working them out" progress={found.progress} />}
      <CutShort found={found.data} />
      {found.error && <p className="text-short">{found.error.message}</p>}
      {shown?.length === 0 && (
        <p className="text-faded">No change offered here fixes what is left: enter what is missing.</p>
      )}
      {about.map((check) => (
        <section key={check} className="mt-2" aria-label={`Fixes for ${titles.get(check) ?? check}`}>
          <h4 className="text-faded">{titles.get(check) ?? check}</h4>
          <ul>
            {shown
              ?.filter((o) => o.check === check)
              .map((option) => (
                <OneWay
                  key={option.id}
                  option={option}
                  onTake={() => store.edit(option.changes as unknown as Change[])}
                />
              ))}
          </ul>
        </section>
      ))}
    </details>
  );
}

function OneWay({ option, onTake }: { option: PlaceOption; onTake: () => void }) {
  return (
    <li
      data-option={option.id}
      className="grid grid-cols-[1.4rem_1fr_auto] items-baseline gap-x-3 border-hair border-t py-1.5"
    >
      <Mark verdict={option.verdict} />
      <span>
        <span className="font-semibold">{glued(option.title)}</span>
        <span className="block text-faded">{glued(option.reason)}</span>
        <span className="figure block">
          {pricedOr(option.cost, option.unpriced)}
          {option.rescues > 0 && `, also fixes ${option.rescues} more`}
          {option.breaks > 0 && `, leaves ${option.breaks} worse`}
          {option.asks && `; ${option.asks} must agree`}
        </span>
      </span>
      <Button onClick={onTake}>use it</Button>
    </li>
  );
}
