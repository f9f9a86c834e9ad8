import { useQuery } from "@tanstack/react-query";
import { overview } from "../../api/client";
import type { Check } from "../../api/types";
import { CheckList } from "../../parts/check-list";
import { change, useJob, useStore } from "../../sync/job-context";
import { Button } from "../../ui/controls";
import { Sought } from "../../ui/sought";
import { Opening } from "../../ui/view";
import { AdviceList } from "./advice-list";
import { BoardSection } from "./board-section";
import { Holds } from "./holds";
import { LeastCost } from "./least-cost";
import { Order } from "./order";
import { PlaceWays } from "./place-ways";

/** Whether something there is short or not known. */
const wrong = (checks: readonly Check[]) => checks.some((c) => c.verdict === "short" || c.verdict === "not_known");

interface Props {
  /** The board to go to. */
  seek: string | null;
  onCircuit: (id: string) => void;
  onTable: (number: string) => void;
}

/** The job beyond its circuits: intake, boards and their demand, which device opens first, advice. */
export function WholePage({ seek, onCircuit, onTable }: Props) {
  const store = useStore();
  const { state, inputs, unsent } = useJob();
  const found = useQuery({
    queryKey: ["overview", store.job, state?.version],
    queryFn: () => overview(store.job),
    enabled: state !== null && unsent === 0,
    placeholderData: (before) => before,
    retry: false,
  });
  const data = found.data;
  if (!inputs) return <Opening />;
  const names = new Map(inputs.circuits.map((c) => [c.id, c.name || "Unnamed circuit"]));
  return (
    <div className="max-w-4xl px-6 py-5 max-sm:px-3" aria-busy={found.isFetching}>
      <h1 className="font-semibold text-2xl">The whole job</h1>
      <p className="mt-1 text-faded">What ties the circuits together: demand, boards, and which device opens first.</p>
      {found.error && <p className="mt-3 text-short">{found.error.message}</p>}
      {!data && !found.error && <p className="mt-3 text-faded">Working it out …</p>}
      {data && (
        <>
          <Sought as="Intake" sought={seek === "intake"} className="mt-6">
            <h2 className="font-semibold text-xl">Intake</h2>
            <CheckList checks={data.intake} onTable={onTable} />
            {wrong(data.intake) && <PlaceWays board={null} titles={new Map(data.intake.map((c) => [c.id, c.title]))} />}
          </Sought>
          {inputs.boards.map((board) => (
            <BoardSection
              key={board.id}
              sought={seek === board.id}
              board={board}
              result={data.boards.find((b) => b.id === board.id)}
              fed={inputs.circuits.find((c) => c.feeds === board.id)}
              only={inputs.boards.length === 1}
              names={names}
              onCircuit={onCircuit}
              onTable={onTable}
            />
          ))}
          <Button
            className="mt-3"
            onClick={() => store.edit([change("add", "board", crypto.randomUUID(), { fields: { name: "New board" } })])}
          >
            add a board
          </Button>
          <Order pairs={data.pairs} onTable={onTable} />
          <Holds names={names} onCircuit={onCircuit} />
          <LeastCost names={names} />
          <AdviceList advice={data.advice} onCircuit={onCircuit} />
        </>
      )}
    </div>
  );
}
