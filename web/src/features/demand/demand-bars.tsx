import type { BoardResult, Installation } from "../../api/types";
import { quantity } from "../../ui/quantity";
import { DEMAND_BARS } from "./words";

interface Bar {
  id: string;
  title: string;
  phase: string;
  now: number;
  later: number;
  connected: number;
  limit: number | null;
  limited: string;
}

/** A bar for each board and phase against what feeds it; what may come later is hatched on top, the limit an upright line. */
export function DemandBars({ job, boards }: { job: Installation; boards: readonly BoardResult[] }) {
  const bars = boards.flatMap((board): Bar[] => {
    const fed = job.circuits.find((c) => c.feeds === board.id);
    const limit = fed ? fed.device.rating : job.supply.fuse_in;
    return board.demand.phases.map((p) => ({
      id: board.id,
      title: job.boards.find((b) => b.id === board.id)?.name || "Unnamed board",
      phase: board.demand.phases.length > 1 ? p.phase : "",
      now: p.demand,
      later: p.later,
      connected: p.connected,
      limit,
      limited: fed ? `${fed.name || "its feed"}` : "service fuse",
    }));
  });
  if (bars.length === 0) return <p className="mt-3 text-faded">{DEMAND_BARS.noDemandDraw}</p>;
  const most = Math.max(...bars.flatMap((b) => [b.now, b.later, b.limit ?? 0])) * 1.08;
  const share = (amps: number) => `${(100 * amps) / most}%`;
  return (
    <figure className="m-0 mt-3" aria-label={DEMAND_BARS.demandEachBoard}>
      {bars.map((bar, i) => {
        const over = bar.limit !== null && bar.now > bar.limit;
        return (
          <div
            key={bar.id + bar.phase}
            data-bar={bar.id}
            className={`grid grid-cols-[10rem_1fr_19rem] items-center gap-x-3 py-1 max-md:grid-cols-[1fr] ${i > 0 && bars[i - 1]?.id !== bar.id ? "border-hair border-t" : ""}`}
          >
            <span className="truncate">
              <span className="font-semibold">{bar.title}</span> {bar.phase}
            </span>
            <span aria-hidden="true" className="relative block h-7 bg-leaf">
              <span
                className={`absolute inset-y-0 left-0 ${over ? "bg-short" : "bg-ink/70"}`}
                style={{ width: share(bar.now) }}
              />
              {bar.later > bar.now && (
                <span
                  className="absolute inset-y-0 border border-ink/50"
                  style={{
                    left: share(bar.now),
                    width: share(bar.later - bar.now),
                    backgroundImage: "repeating-linear-gradient(135deg, var(--ink) 0 1px, transparent 1px 5px)",
                    printColorAdjust: "exact",
                  }}
                />
              )}
              {bar.limit !== null && (
                <span className="absolute -inset-y-0.5 w-[3px] bg-copper" style={{ left: share(bar.limit) }} />
              )}
            </span>
            <span className="figure">
              {quantity(bar.now, "A")}
              {bar.later > bar.now + 1e-9 && <span className="text-faded">, later {quantity(bar.later, "A")}</span>}
              {bar.limit !== null && (
                <span className={over ? "text-short" : "text-copper"}> of {quantity(bar.limit, "A")}</span>
              )}
            </span>
          </div>
        );
      })}
      <figcaption className="mt-1 text-faded">{DEMAND_BARS.solidDemandAfter}</figcaption>
    </figure>
  );
}
