import { Link } from "react-router";
import { cureOf } from "../parts/cure";
import { usePaths } from "../parts/paths";
import { useJob } from "../sync/job-context";
import { Mark } from "../ui/verdict";
import { THUMB_BAR } from "./words";

/** On a phone: how the job stands and the next thing to do, in reach of a thumb. The page of a circuit has its own. */
export function ThumbBar() {
  const { state } = useJob();
  const paths = usePaths();
  if (!state) return null;
  const first = state.attention[0];
  const verdict = state.steps.find((s) => s.id === "attention")?.verdict ?? "not_known";
  return (
    <section
      aria-label={THUMB_BAR.next}
      className="no-print hidden items-center gap-2 border-hair border-t bg-paper px-3 py-2 max-sm:flex"
      data-thumb
    >
      <Mark verdict={verdict} size={18} />
      {first ? (
        <Link className="min-w-0 flex-1 truncate py-1" to={cureOf(first, paths)}>
          next: <strong>{first.text}</strong>, {first.reason}
        </Link>
      ) : (
        <span className="flex-1 py-1">{THUMB_BAR.nothingNeedsAttention}</span>
      )}
    </section>
  );
}
