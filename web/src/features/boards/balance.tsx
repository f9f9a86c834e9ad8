import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { balanceBoard } from "../../api/client";
import type { Balanced, Board, Change } from "../../api/types";
import { useJob, useStore } from "../../sync/job-context";
import { Button } from "../../ui/controls";
import { quantity } from "../../ui/quantity";
import { BALANCE } from "./words";

/** The phases of a board balanced by one command, with the phases before and after; nothing changes until it is taken. */
export function Balance({ board }: { board: Board }) {
  const store = useStore();
  const { inputs, asOf, settled } = useJob();
  const [open, setOpen] = useState(false);
  const found = useQuery({
    queryKey: ["balance", board.id, asOf],
    queryFn: () => balanceBoard(store.job, board.id),
    enabled: open && settled,
    retry: false,
  });
  const names = new Map(inputs?.circuits.map((c) => [c.id, c.name || "an unnamed circuit"]));
  if (!open)
    return (
      <p className="mt-3">
        <Button onClick={() => setOpen(true)}>{BALANCE.balancePhases}</Button>
      </p>
    );
  return (
    <section className="mt-3 border-hair border-t pt-2" aria-label={BALANCE.phasesBalanced} data-balance>
      <h2 className="font-semibold text-lg">{BALANCE.phasesBalanced}</h2>
      {found.isPending && <p className="text-faded">{BALANCE.tryingCircuitsEvery}</p>}
      {found.error && <p className="text-short">{found.error.message}</p>}
      {found.data && (
        <>
          <Phases found={found.data} />
          {found.data.changes.length === 0 ? (
            <p className="mt-1">{BALANCE.noBetterBalance}</p>
          ) : (
            <ul className="mt-1">
              {found.data.changes.map((c) => (
                <li key={c.id}>
                  {names.get(c.id)} to {String((c.fields as Record<string, unknown>).phase)}
                </li>
              ))}
            </ul>
          )}
          <p className="mt-2 flex gap-2">
            {found.data.changes.length > 0 && (
              <Button
                strong
                onClick={() => {
                  store.edit(found.data.changes as unknown as Change[]);
                  setOpen(false);
                }}
              >
                {BALANCE.use}
              </Button>
            )}
            <Button onClick={() => setOpen(false)}>{BALANCE.leave}</Button>
          </p>
        </>
      )}
    </section>
  );
}

function Phases({ found }: { found: Balanced }) {
  return (
    <table className="figure mt-1">
      <thead>
        <tr className="text-left font-sans text-faded">
          <th className="pr-6 font-normal">phase</th>
          <th className="pr-6 text-right font-normal">before</th>
          <th className="text-right font-normal">after</th>
        </tr>
      </thead>
      <tbody>
        {found.before.map((p, i) => (
          <tr key={p.phase} className="border-hair border-t">
            <td>{p.phase}</td>
            <td className="pr-6 text-right">{quantity(p.demand, "A")}</td>
            <td className="text-right">{quantity(found.after[i]?.demand ?? p.demand, "A")}</td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}
