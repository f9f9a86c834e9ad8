import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { boardEarthing } from "../../api/client";
import type { Board, BoardResult, Circuit } from "../../api/types";
import { CheckList, Steps } from "../../parts/check-list";
import { FigureList } from "../../parts/figure-list";
import { More } from "../../parts/more";
import { PartFields } from "../../parts/part-fields";
import { change, setFields, useJob, useStore } from "../../sync/job-context";
import { Ask } from "../../ui/ask";
import { Button } from "../../ui/controls";
import { glued, quantity } from "../../ui/quantity";
import { Sought } from "../../ui/sought";
import { PlaceWays } from "./place-ways";

interface Props {
  board: Board;
  result: BoardResult | undefined;
  fed: Circuit | undefined;
  only: boolean;
  sought: boolean;
  names: Map<string, string>;
  onCircuit: (id: string) => void;
  onTable: (number: string) => void;
}

/** A board: what arrives there, what it draws by phase and by kind of load, its checks, its own inputs. */
export function BoardSection({ sought, board, result, fed, only, names, onCircuit, onTable }: Props) {
  const store = useStore();
  const [sure, setSure] = useState(false);
  const demand = result?.demand;
  const known = (value: number | null | undefined, unit: string) =>
    value === null || value === undefined ? "not known" : quantity(value, unit);
  return (
    <Sought as={board.name || "Unnamed board"} sought={sought} className="mt-8">
      <h2 className="font-semibold text-xl">{board.name || "Unnamed board"}</h2>
      {result && (
        <p className="mt-1">
          {fed ? (
            <>
              {"Fed by "}
              <button type="button" className="word" onClick={() => onCircuit(fed.id)}>
                {fed.name || "a sub-main"}
              </button>
              {". "}
            </>
          ) : (
            "At the origin. "
          )}
          {result.earthing ?? "Earthing not entered"}, Zs {known(result.zs, "Ω")}, volt drop so far{" "}
          {known(result.drop, "%")}. Largest fault line to neutral {known(result.ipf_ln, "A")}, line to earth{" "}
          {known(result.ipf_le, "A")}
          {result.ipf_3ph !== null && `, three-phase ${quantity(result.ipf_3ph, "A")}`}; least to earth{" "}
          {known(result.fault_min, "A")}.
        </p>
      )}
      {demand?.error && <p className="mt-1 text-faded">Demand not known: {demand.error}</p>}
      {demand && demand.phases.length > 0 && (
        <table className="figure mt-2 w-full max-w-2xl">
          <thead>
            <tr className="border-hair border-b text-left font-sans text-faded">
              <th className="font-normal">phase</th>
              <th className="text-right font-normal">connected</th>
              <th className="text-right font-normal">after diversity</th>
              <th className="text-right font-normal">with what may come later</th>
            </tr>
          </thead>
          <tbody>
            {demand.phases.map((p) => (
              <tr key={p.phase} className="border-hair border-b">
                <td>{p.phase}</td>
                <td className="text-right">{quantity(p.connected, "A")}</td>
                <td className="text-right">{quantity(p.demand, "A")}</td>
                <td className="text-right">{quantity(p.later, "A")}</td>
              </tr>
            ))}
          </tbody>
        </table>
      )}
      {demand && demand.phases.length > 1 && demand.imbalance !== null && (
        <p className="mt-1">
          Imbalance {quantity(demand.imbalance, "A")}.
          {demand.guessed.length > 0 && (
            <span className="hatch ml-1 px-1">
              phase not entered, counted on every one: {demand.guessed.map((id) => names.get(id) ?? id).join(", ")}
            </span>
          )}
        </p>
      )}
      {result && <CheckList checks={result.checks} onTable={onTable} />}
      {result?.checks.some((c) => c.verdict === "short" || c.verdict === "not_known") && (
        <PlaceWays board={board.id} titles={new Map(result.checks.map((c) => [c.id, c.title]))} />
      )}
      {demand && demand.lines.length > 0 && (
        <More title="Demand by kind of load">
          <table className="figure w-full max-w-2xl">
            <tbody>
              {demand.lines.map((line) => (
                <tr key={line.kind} className="border-hair border-b">
                  <td className="font-sans">{line.kind.replaceAll("_", " ")}</td>
                  <td className="text-right">{quantity(line.connected, "A")}</td>
                  <td className="text-right">{quantity(line.allowed, "A")} allowed</td>
                  <td className="text-right">{quantity(line.later, "A")} later</td>
                </tr>
              ))}
            </tbody>
          </table>
          <Steps steps={demand.steps} onTable={onTable} />
        </More>
      )}
      {result && result.figures.length > 0 && (
        <More title="Fault currents" note="each with its working">
          <FigureList figures={result.figures} onTable={onTable} />
        </More>
      )}
      {fed && <Ways board={board} />}
      <More title="Everything of this board">
        <PartFields
          kind="board"
          values={board}
          onSave={(fields) => store.edit([setFields("board", board.id, fields)])}
        />
        {!only && (
          <p className="mt-3">
            <Button onClick={() => setSure(true)}>remove this board …</Button>
            <Ask
              open={sure}
              title={`Remove ${board.name || "this board"}?`}
              say="Its circuits go with it. Ctrl+Z brings all of it back, and so does the history of the job."
              yes="remove it"
              onYes={() => store.edit([change("remove", "board", board.id)])}
              onClose={() => setSure(false)}
            />
          </p>
        )}
      </More>
    </Sought>
  );
}

/** The three ways to earth an outbuilding, side by side. */
function Ways({ board }: { board: Board }) {
  const store = useStore();
  const { state, unsent } = useJob();
  const [open, setOpen] = useState(false);
  const found = useQuery({
    queryKey: ["ways", board.id, state?.version],
    queryFn: () => boardEarthing(store.job, board.id),
    enabled: open && unsent === 0,
    retry: false,
  });
  return (
    <details className="mt-3 border-hair border-t pt-2" onToggle={(event) => setOpen(event.currentTarget.open)}>
      <summary className="cursor-pointer py-1 font-semibold hover:bg-lit">Ways to earth it, side by side</summary>
      <div className="mt-2 grid grid-cols-3 gap-5 max-sm:grid-cols-1">
        {found.data?.map((way) => (
          <div key={way.id} data-way={way.id}>
            <h3 className="font-semibold">{way.title}</h3>
            <p className="text-faded">{way.clause}</p>
            <p className="figure">Zs {way.zs === null ? "not known: RA is missing" : quantity(way.zs, "Ω")}</p>
            <ul className="mt-1 list-disc pl-4">
              {way.consequences.map((c) => (
                <li key={c}>{glued(c)}</li>
              ))}
              {way.short.map((s) => (
                <li key={s} className="text-short">
                  short: {glued(s)}
                </li>
              ))}
            </ul>
          </div>
        ))}
      </div>
      <p className="mt-2 text-faded">
        Which one is right hangs on the place and on local rules; the choice stays with you.
      </p>
    </details>
  );
}
