import type { Cited } from "../../api/types";
import { CheckList } from "../../parts/check-list";
import { PlaceWays } from "../../parts/place-ways";
import { useOverview } from "../../parts/use-overview";
import { useJob } from "../../sync/job-context";
import { Sought } from "../../ui/sought";
import { Opening } from "../../ui/view";
import { EarthingDrawing } from "./earthing-drawing";
import { Ways } from "./ways";
import { EARTHING, NO_BOARD } from "./words";

interface Props {
  /** The board to go to, or "intake". */
  seek: string | null;
  onCircuit: (id: string) => void;
  onTable: (cite: Cited) => void;
}

const OF_INTAKE = ["earthing", "bonding"];
const OF_BOARD = ["electrode", "ahead", "electrode_place", "island", "bonding"];
const bad = (verdict: string) => verdict === "short" || verdict === "not_known";

/** The earthing and bonding of the job drawn from its data, its checks, and for each outbuilding the ways to earth it side by side. */
export function EarthingPage({ seek, onCircuit, onTable }: Props) {
  const { inputs } = useJob();
  const found = useOverview();
  if (!inputs) return <Opening />;
  const intake = found.data?.intake.filter((c) => OF_INTAKE.includes(c.id)) ?? [];
  return (
    <div className="px-6 py-5 max-sm:px-3" aria-busy={found.isFetching}>
      <h1 className="font-semibold text-2xl">{EARTHING.earthingOutbuildings}</h1>
      {found.error && <p className="mt-2 text-short">{found.error.message}</p>}
      <EarthingDrawing job={inputs} boards={found.data?.boards ?? []} />
      <Sought as={EARTHING.intake} sought={seek === "intake"} className="mt-3">
        <h2 className="font-semibold text-lg">{EARTHING.intake}</h2>
        <CheckList checks={intake} onTable={onTable} />
        {intake.some((c) => bad(c.verdict)) && (
          <PlaceWays board={null} only={OF_INTAKE} titles={new Map(intake.map((c) => [c.id, c.title]))} />
        )}
      </Sought>
      {inputs.boards.map((board) => {
        const result = found.data?.boards.find((b) => b.id === board.id);
        const checks = result?.checks.filter((c) => OF_BOARD.includes(c.id)) ?? [];
        const fed = inputs.circuits.find((c) => c.feeds === board.id);
        if (!fed && checks.length === 0) return null;
        return (
          <Sought
            key={board.id}
            as={`Earthing of ${board.name || "an unnamed board"}`}
            sought={seek === board.id}
            className="mt-6"
          >
            <h2 className="font-semibold text-lg">
              {board.name || "Unnamed board"}
              {board.outbuilding && <span className="font-normal text-faded">{EARTHING.separateBuilding}</span>}
            </h2>
            <CheckList checks={checks} onTable={onTable} />
            {checks.some((c) => bad(c.verdict)) && (
              <PlaceWays board={board.id} only={OF_BOARD} titles={new Map(checks.map((c) => [c.id, c.title]))} />
            )}
            {fed && <Ways board={board} fed={fed} onCircuit={onCircuit} />}
          </Sought>
        );
      })}
      {!inputs.circuits.some((c) => c.feeds) && <p className="mt-6">{NO_BOARD}</p>}
      <p className="mt-8 max-w-prose border-hair border-t pt-3 text-faded">{EARTHING.whichRightDepends}</p>
    </div>
  );
}
