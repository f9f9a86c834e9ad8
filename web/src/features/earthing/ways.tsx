import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { boardEarthing } from "../../api/client";
import type { Board, Change, Circuit, EarthingWay } from "../../api/types";
import { pounds } from "../../parts/price";
import { setFields, useJob, useStore } from "../../sync/job-context";
import { useTyped } from "../../sync/typed";
import { Button } from "../../ui/controls";
import { inputClass } from "../../ui/editors";
import { glued, quantity, shortFigure } from "../../ui/quantity";
import { NO_OPTION, WAYS } from "./words";

/** The ways to earth a board away from the origin side by side, with numbers; one is chosen with a reason that prints. */
export function Ways({ board, fed, onCircuit }: { board: Board; fed: Circuit; onCircuit: (id: string) => void }) {
  const store = useStore();
  const { asOf, settled } = useJob();
  const found = useQuery({
    queryKey: ["ways", board.id, asOf],
    queryFn: () => boardEarthing(store.job, board.id),
    enabled: settled,
    placeholderData: (before) => before,
    retry: false,
  });
  const [choosing, setChoosing] = useState<EarthingWay | null>(null);
  const [reason, setReason] = useTyped(`earthing/${board.id}`);
  const ways = found.data ?? [];
  // What is short whichever way is taken says nothing about the ways.
  const every = ways[0]?.short.filter((s) => ways.every((w) => w.short.includes(s))) ?? [];
  const choose = () => {
    if (!choosing || reason.trim() === "") return;
    store.edit([
      ...(choosing.changes as unknown as Change[]),
      setFields("board", board.id, { earthing_reason: reason.trim() }),
    ]);
    setChoosing(null);
    setReason("");
  };
  if (found.error) return <p className="mt-2 text-short">{found.error.message}</p>;
  if (found.data && ways.length === 0) return <p className="mt-2">{NO_OPTION}</p>;
  if (ways.length === 0) return <p className="mt-2 text-faded">{WAYS.workingOutOptions}</p>;
  return (
    <div className="mt-2 overflow-x-auto" data-earthing-ways={board.id}>
      <table className="w-full min-w-[46rem] table-fixed">
        <caption className="pb-1 text-left text-faded">
          Earthing options, fed by{" "}
          <button type="button" className="word" onClick={() => onCircuit(fed.id)}>
            {fed.name || "its sub-main"}
          </button>
          {board.earthing_reason && <span className="text-ink">. Chosen because: {board.earthing_reason}</span>}
        </caption>
        <thead>
          <tr className="border-hair border-b text-left align-top">
            <td className="w-44" />
            {ways.map((way) => (
              <th key={way.id} className="pr-4 font-semibold" data-way={way.id} data-chosen={way.chosen || undefined}>
                {way.title}
                {way.chosen && <span className="ml-1 font-normal text-copper">· now</span>}
              </th>
            ))}
          </tr>
        </thead>
        <tbody className="align-top">
          <Line head="clause" ways={ways} say={(w) => w.clause} />
          <Line
            head={WAYS.zsBoard}
            ways={ways}
            figures
            say={(w) => (w.zs === null ? "not known: RA is missing" : quantity(w.zs, "Ω"))}
          />
          <Line
            head="fails with it"
            ways={ways}
            say={(w) => {
              const own = w.short.filter((s) => !every.includes(s));
              const rest = every.length > 0 ? `${every.length} fail whichever is chosen` : "";
              return own.length === 0
                ? rest || "nothing"
                : [own.map(glued).join("; "), rest].filter(Boolean).join("; and ");
            }}
            tone={(w) => (w.short.some((s) => !every.includes(s)) ? "text-short" : "")}
          />
          <Line
            head="touch voltage there if the PEN breaks"
            ways={ways}
            figures
            say={(w) =>
              w.touch === null
                ? "not known: RA or the demand"
                : w.touch === 0
                  ? "none from the supply"
                  : `about ${quantity(w.touch, "V")}`
            }
            tone={(w) => (w.touch !== null && w.touch > 50 ? "text-short" : "")}
          />
          <Line
            head="bonding conductor"
            ways={ways}
            figures
            say={(w) =>
              w.bond_csa === null
                ? "not known"
                : w.bond_metres > 0
                  ? `${quantity(w.bond_csa, "mm²")}, ${quantity(w.bond_metres, "m")} run with the feed`
                  : `${quantity(w.bond_csa, "mm²")}, none from the house`
            }
          />
          <Line head="copper" ways={ways} figures say={(w) => `${shortFigure(w.copper)} kg`} />
          <Line
            head="extra cost"
            ways={ways}
            figures
            say={(w) => (w.cost === 0 ? "nothing" : `${pounds(w.cost)} by the firm’s prices, without VAT`)}
          />
          <Line
            head="digging if a metal pipe is added later"
            ways={ways}
            figures
            say={(w) => (w.digs_later > 0 ? quantity(w.digs_later, "m") : "none")}
            tone={(w) => (w.digs_later > 0 ? "text-short" : "")}
          />
          <tr>
            <th scope="row" className="py-1 text-left font-normal text-faded">
              {WAYS.whatMeans}
            </th>
            {ways.map((way) => (
              <td key={way.id} className="py-1 pr-4">
                <ul className="list-disc pl-4">
                  {way.consequences.map((c) => (
                    <li key={c}>{glued(c)}</li>
                  ))}
                </ul>
              </td>
            ))}
          </tr>
          <tr className="no-print">
            <td />
            {ways.map((way) => (
              <td key={way.id} className="pr-4">
                <Button onClick={() => setChoosing(way)}>choose …</Button>
              </td>
            ))}
          </tr>
        </tbody>
      </table>
      {choosing && (
        <form
          className="mt-2 flex flex-wrap items-center gap-2"
          onSubmit={(event) => {
            event.preventDefault();
            choose();
          }}
        >
          <label className="grow">
            <span className="text-faded">{choosing.title}, because</span>
            <input
              // biome-ignore lint/a11y/noAutofocus: the field was asked for
              autoFocus
              className={`${inputClass} mt-1`}
              maxLength={200}
              value={reason}
              placeholder={WAYS.reasonPrintedDocument}
              onChange={(event) => setReason(event.target.value)}
            />
          </label>
          <Button type="submit" strong disabled={reason.trim() === ""}>
            choose
          </Button>
          <Button onClick={() => setChoosing(null)}>cancel</Button>
        </form>
      )}
    </div>
  );
}

interface LineProps {
  head: string;
  ways: readonly EarthingWay[];
  figures?: boolean;
  say: (way: EarthingWay) => string;
  tone?: (way: EarthingWay) => string;
}

function Line({ head, ways, figures, say, tone }: LineProps) {
  return (
    <tr className="border-hair border-b">
      <th scope="row" className="py-1 pr-3 text-left font-normal text-faded">
        {head}
      </th>
      {ways.map((way) => (
        <td key={way.id} className={`py-1 pr-4 ${figures ? "figure" : ""} ${tone?.(way) ?? ""}`}>
          {say(way)}
        </td>
      ))}
    </tr>
  );
}
