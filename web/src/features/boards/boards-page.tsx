import { Link } from "react-router";
import { usePaths } from "../../parts/paths";
import { useOverview } from "../../parts/use-overview";
import { change, useJob, useStore } from "../../sync/job-context";
import { Button } from "../../ui/controls";
import { quantity } from "../../ui/quantity";
import { Mark } from "../../ui/verdict";
import { Opening } from "../../ui/view";
import { Glance } from "./glance";
import { LeastCost } from "./least-cost";
import { BOARDS, GLANCE } from "./words";

interface Props {
  /** Whether the sizes of the whole job were asked for. */
  sizes: boolean;
}

const WORST = ["short", "not_known", "close", "meets"] as const;

/** The boards of the job, how each stands, and the sizes of all circuits together. */
export function BoardsPage({ sizes }: Props) {
  const store = useStore();
  const paths = usePaths();
  const { inputs, state } = useJob();
  const found = useOverview();
  if (!inputs || !state) return <Opening />;
  const names = new Map(inputs.circuits.map((c) => [c.id, c.name || "Unnamed circuit"]));
  return (
    <div className="px-6 py-5 max-sm:px-3" aria-busy={found.isFetching}>
      <h1 className="font-semibold text-2xl">{BOARDS.boards}</h1>
      <p className="mt-1 text-faded">{BOARDS.eachOpensGrid}</p>
      {found.error && <p className="mt-2 text-short">{found.error.message}</p>}
      <ul className="mt-3">
        {inputs.boards.map((board) => {
          const circuits = inputs.circuits.filter((c) => c.board === board.id);
          const result = found.data?.boards.find((b) => b.id === board.id);
          const fed = inputs.circuits.find((c) => c.feeds === board.id);
          const verdicts = [
            ...circuits.map((c) => state.summaries.find((s) => s.id === c.id)?.verdict),
            ...(result?.checks.map((c) => c.verdict) ?? []),
          ];
          const worst = WORST.find((v) => verdicts.includes(v)) ?? "not_known";
          const taken = circuits.reduce((sum, c) => sum + c.phases, 0);
          const spare = board.ways === null ? null : board.ways - taken;
          return (
            <li key={board.id} className="border-hair border-t" data-board={board.id}>
              <Link
                to={paths.board(board.id)}
                className="grid grid-cols-[1.4rem_14rem_1fr_9rem_9rem] items-baseline gap-x-3 py-2 hover:bg-lit max-md:grid-cols-[1.4rem_1fr]"
              >
                <Mark verdict={worst} />
                <span className="font-semibold">{board.name || "Unnamed board"}</span>
                <span className="max-md:col-start-2">
                  {fed ? `fed by ${fed.name || "a sub-main"}` : "at the origin"}, {circuits.length}{" "}
                  {circuits.length === 1 ? "circuit" : "circuits"}
                </span>
                <span className="figure max-md:col-start-2">
                  {spare === null
                    ? "ways not entered"
                    : spare < 0
                      ? `${-spare} more ${spare === -1 ? "way" : "ways"} needed`
                      : `${spare} ${spare === 1 ? "way" : "ways"} spare`}
                </span>
                <span className="figure text-right max-md:col-start-2 max-md:text-left">
                  {result?.demand.highest == null ? "demand not known" : quantity(result.demand.highest, "A")}
                </span>
              </Link>
            </li>
          );
        })}
      </ul>
      <Button
        className="mt-3"
        onClick={() => store.edit([change("add", "board", crypto.randomUUID(), { fields: { name: "New board" } })])}
      >
        {BOARDS.addBoard}
      </Button>
      {found.data ? (
        <Glance rows={found.data.glance} names={names} />
      ) : (
        !found.error && <p className="mt-6 text-faded">{GLANCE.waiting}</p>
      )}
      <LeastCost names={names} asked={sizes} />
    </div>
  );
}
