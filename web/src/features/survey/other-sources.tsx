import { Link } from "react-router";
import { usePaths } from "../../parts/paths";
import { useOverview } from "../../parts/use-overview";
import { useJob } from "../../sync/job-context";
import { quantity } from "../../ui/quantity";
import { OTHER_SOURCES } from "./words";

/** The sources beside the network: where each is, what it gives and adds to a fault, what it keeps alive. Nothing where there is none. */
export function OtherSources() {
  const { inputs } = useJob();
  const found = useOverview();
  const paths = usePaths();
  const sources = found.data?.sources ?? [];
  if (!inputs || sources.length === 0) return null;
  const board = (id: string | null) => inputs.boards.find((b) => b.id === id)?.name || "a board";
  return (
    <section className="mt-6" aria-label={OTHER_SOURCES.otherSources}>
      <h2 className="font-semibold text-xl">{OTHER_SOURCES.otherSources}</h2>
      <p className="mt-1 text-faded">{OTHER_SOURCES.besideNetwork}</p>
      <ul className="mt-2 max-w-prose">
        {sources.map((s) => (
          <li key={s.load} className="border-hair border-b py-1.5">
            <Link className="word font-semibold" to={paths.circuit(s.circuit)}>
              {s.name}
            </Link>
            {`, ${s.rated === null ? "output not entered" : quantity(s.rated, "A")}, on ${board(s.board)}: `}
            {s.together
              ? `adds ${s.adds === null ? "a current not entered" : `up to ${quantity(s.adds, "A")}`} to every fault`
              : "instead of the mains"}
            {s.alone ? `; supplies ${board(s.alone)} with the mains off` : ""}
          </li>
        ))}
      </ul>
      {sources.some((s) => s.alone) && <p className="mt-2 text-faded">{OTHER_SOURCES.networkLost}</p>}
    </section>
  );
}
