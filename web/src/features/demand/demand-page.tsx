import type { Cited } from "../../api/types";
import { CheckList, Steps } from "../../parts/check-list";
import { More } from "../../parts/more";
import { PlaceWays } from "../../parts/place-ways";
import { useOverview } from "../../parts/use-overview";
import { useJob } from "../../sync/job-context";
import { Button } from "../../ui/controls";
import { quantity } from "../../ui/quantity";
import { Opening } from "../../ui/view";
import { DemandBars } from "./demand-bars";
import { Rooms } from "./rooms";
import { DEMAND } from "./words";

interface Props {
  /** With the client: big type, only rooms, loads and what may come. */
  client: boolean;
  onClient: (on: boolean) => void;
  onCircuit: (id: string) => void;
  onTable: (cite: Cited) => void;
}

/** What the house draws: rooms and loads, diversity, each board and phase against its feed and the service fuse. */
export function DemandPage({ client, onClient, onCircuit, onTable }: Props) {
  const { inputs } = useJob();
  const found = useOverview();
  if (!inputs) return <Opening />;
  const data = found.data;
  if (client)
    return (
      <div className="px-8 py-6 text-[1.35rem] leading-relaxed max-sm:px-4">
        <p className="no-print mb-4">
          <Button onClick={() => onClient(false)}>{DEMAND.backDesignView}</Button>
        </p>
        <h1 className="font-semibold text-[1.9rem]">{DEMAND.whatWantedRoom}</h1>
        <Rooms client onCircuit={onCircuit} />
      </div>
    );
  const demand = data?.intake.find((c) => c.id === "demand");
  const bad = (verdict: string | undefined) => verdict === "short" || verdict === "not_known";
  return (
    <div className="px-6 py-5 max-sm:px-3" aria-busy={found.isFetching}>
      <div className="flex flex-wrap items-baseline justify-between gap-3">
        <h1 className="font-semibold text-2xl">{DEMAND.maximumDemand}</h1>
        <Button onClick={() => onClient(true)}>{DEMAND.clientView}</Button>
      </div>
      {found.error && <p className="mt-2 text-short">{found.error.message}</p>}
      {data && <DemandBars job={inputs} boards={data.boards} />}
      {data && demand && (
        <section className="mt-2" aria-label={DEMAND.demandServiceFuse}>
          <CheckList checks={[demand]} onTable={onTable} />
          {bad(demand.verdict) && (
            <PlaceWays board={null} only={["demand"]} titles={new Map([["demand", demand.title]])} />
          )}
        </section>
      )}
      {data?.boards.map((board) => {
        const feed = board.checks.find((c) => c.id === "feed");
        const name = inputs.boards.find((b) => b.id === board.id)?.name || "Unnamed board";
        return (
          <section key={board.id} className="mt-4" aria-label={`Demand of ${name}`} data-demand={board.id}>
            <h2 className="font-semibold text-lg">{name}</h2>
            {board.demand.error && <p className="text-faded">Not known: {board.demand.error}</p>}
            {feed && <CheckList checks={[feed]} onTable={onTable} />}
            {feed && bad(feed.verdict) && (
              <PlaceWays board={board.id} only={["feed"]} titles={new Map([["feed", feed.title]])} />
            )}
            {board.demand.guessed.length > 0 && (
              <p>
                <span className="hatch px-1">
                  phase not entered, so counted on all three:{" "}
                  {board.demand.guessed.map((id) => inputs.circuits.find((c) => c.id === id)?.name ?? id).join(", ")}
                </span>
              </p>
            )}
            {board.demand.lines.length > 0 && (
              <More title={DEMAND.kindLoad} note="and how diversity was applied">
                <table className="figure w-full max-w-2xl">
                  <thead>
                    <tr className="text-left font-sans text-faded">
                      <th className="font-normal">kind</th>
                      <th className="text-right font-normal">connected</th>
                      <th className="text-right font-normal">{DEMAND.afterDiversity}</th>
                      <th className="text-right font-normal">{DEMAND.futureLoads}</th>
                    </tr>
                  </thead>
                  <tbody>
                    {board.demand.lines.map((line) => (
                      <tr key={line.kind} className="border-hair border-t">
                        <td className="font-sans">{line.kind.replaceAll("_", " ")}</td>
                        <td className="text-right">{quantity(line.connected, "A")}</td>
                        <td className="text-right">{quantity(line.allowed, "A")}</td>
                        <td className="text-right">{quantity(line.later, "A")}</td>
                      </tr>
                    ))}
                  </tbody>
                </table>
                <Steps steps={board.demand.steps} onTable={onTable} />
              </More>
            )}
          </section>
        );
      })}
      <Rooms onCircuit={onCircuit} />
    </div>
  );
}
