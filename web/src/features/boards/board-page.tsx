import { useState } from "react";
import { useNavigate } from "react-router";
import type { Board, Circuit, Cited, Installation } from "../../api/types";
import { CheckList } from "../../parts/check-list";
import { FigureList } from "../../parts/figure-list";
import { More } from "../../parts/more";
import { PartFields } from "../../parts/part-fields";
import { usePaths } from "../../parts/paths";
import { PlaceWays } from "../../parts/place-ways";
import { useOverview } from "../../parts/use-overview";
import { change, setFields, useJob, useStore } from "../../sync/job-context";
import { Ask } from "../../ui/ask";
import { Button } from "../../ui/controls";
import { quantity } from "../../ui/quantity";
import { Opening } from "../../ui/view";
import { boardBefore, join, joinable } from "../circuit/join";
import { Balance } from "./balance";
import { Grid } from "./grid";
import { moved } from "./rows";
import { BOARD } from "./words";

interface Props {
  id: string;
  onCircuit: (id: string) => void;
  onTable: (cite: Cited) => void;
}

/** Checks of a board that other steps of the work cure. */
const ELSEWHERE = ["feed", "electrode", "ahead", "electrode_place", "island", "bonding"];

/** One board: what arrives there, its ways as a grid, its checks, its own inputs. */
export function BoardPage({ id, onCircuit, onTable }: Props) {
  const store = useStore();
  const paths = usePaths();
  const navigate = useNavigate();
  const { inputs } = useJob();
  const found = useOverview();
  const [sure, setSure] = useState(false);
  if (!inputs) return <Opening />;
  const board = inputs.boards.find((b) => b.id === id);
  if (!board) return <p className="p-6">{BOARD.boardNoLonger}</p>;
  const result = found.data?.boards.find((b) => b.id === id);
  const fed = inputs.circuits.find((c) => c.feeds === id);
  const circuits = inputs.circuits.filter((c) => c.board === id);
  const stay = moved(inputs, board);
  const checks = result?.checks.filter((c) => !ELSEWHERE.includes(c.id)) ?? [];
  const wrong = checks.filter((c) => c.verdict === "short" || c.verdict === "not_known").map((c) => c.id);
  const known = (value: number | null | undefined, unit: string) =>
    value === null || value === undefined ? "not known" : quantity(value, unit);
  return (
    <div className="px-5 py-4 max-sm:px-3" aria-busy={found.isFetching}>
      <h1 className="font-semibold text-2xl">{board.name || "Unnamed board"}</h1>
      {result && (
        <p className="mt-0.5">
          {fed ? (
            <>
              {"Fed by "}
              <button type="button" className="word" onClick={() => onCircuit(fed.id)}>
                {fed.name || "a sub-main"}
              </button>
            </>
          ) : (
            BOARD.origin
          )}
          {`. ${result.earthing ?? BOARD.earthingNotEntered}, Zs at the board ${known(result.zs, "Ω")}, volt drop to here ${known(result.drop, "%")}, max fault current ${known(result.ipf_ln, "A")} line to neutral.`}
        </p>
      )}
      <Grid board={board} circuits={circuits} />
      {stay.length > 0 && (
        <p className="mt-2 text-faded" data-stay>
          {BOARD.numbersStay}{" "}
          {stay.map((t) => `${t.number} ${t.name} is now way ${t.way}`.replace("  ", " ")).join("; ")}.
        </p>
      )}
      {inputs.supply.phases === 3 && <Balance board={board} />}
      {result && checks.length > 0 && (
        <section className="mt-5" aria-label={BOARD.checksBoard}>
          <h2 className="font-semibold text-lg">{BOARD.checksBoard}</h2>
          <CheckList checks={checks} onTable={onTable} />
          {wrong.length > 0 && (
            <PlaceWays board={id} only={wrong} titles={new Map(result.checks.map((c) => [c.id, c.title]))} />
          )}
        </section>
      )}
      {result && result.figures.length > 0 && (
        <More title={BOARD.prospectiveFaultCurrents} note="each with its working">
          <FigureList figures={result.figures} onTable={onTable} />
        </More>
      )}
      <More title={BOARD.allDetailsBoard}>
        <PartFields
          kind="board"
          values={board}
          onSave={(fields) => store.edit([setFields("board", board.id, fields)])}
        />
        <Cutting board={board} fed={fed ?? null} job={inputs} />
        {inputs.boards.length > 1 && (
          <p className="mt-3">
            <Button onClick={() => setSure(true)}>{BOARD.removeBoard}</Button>
            <Ask
              open={sure}
              title={`Remove ${board.name || "this board"}?`}
              say={BOARD.circuitsGoCtrl}
              yes="remove it"
              onYes={() => {
                store.edit([change("remove", "board", board.id)]);
                navigate(paths.boards);
              }}
              onClose={() => setSure(false)}
            />
          </p>
        )}
      </More>
    </div>
  );
}

/** A board out of a run, or one more before a board at the origin: one edit each. */
function Cutting({ board, fed, job }: { board: Board; fed: Circuit | null; job: Installation }) {
  const store = useStore();
  const paths = usePaths();
  const navigate = useNavigate();
  const behind = fed ? joinable(job, fed) : null;
  if (!fed)
    return (
      <p className="mt-3">
        <Button
          onClick={() => {
            const made = boardBefore(board, BOARD.newBefore);
            store.edit(made.changes);
            navigate(paths.circuit(made.feed));
          }}
        >
          {BOARD.before}
        </Button>
      </p>
    );
  if (behind === null || typeof behind === "string")
    return <p className="mt-3 max-w-prose text-faded">{`${BOARD.staysIn} ${behind ?? ""}`}</p>;
  return (
    <p className="mt-3">
      <Button
        onClick={() => {
          store.edit(join(fed, board, behind.behind));
          navigate(paths.circuit(fed.id));
        }}
      >
        {`${BOARD.takeOut} ${behind.behind.name || "its circuit"}`}
      </Button>
    </p>
  );
}
