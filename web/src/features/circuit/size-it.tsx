import { sizeCircuit } from "../../api/client";
import type { Circuit } from "../../api/types";
import { Progress, useSearch } from "../../parts/use-search";
import { setFields, useJob, useStore } from "../../sync/job-context";
import { Button, Sheet } from "../../ui/controls";
import { quantity, shortFigure } from "../../ui/quantity";
import { Mark } from "../../ui/verdict";
import { SIZE_IT } from "./words";

const left = (percent: number) => (percent > 0 ? `${percent.toFixed(2)} %` : "nothing");

interface Props {
  circuit: Circuit;
  open: boolean;
  onOpenChange: (open: boolean) => void;
}

/** The smallest size that passes, with what each smaller one fails on; nothing changes until it is taken. */
export function SizeIt({ circuit, open, onOpenChange }: Props) {
  const store = useStore();
  const { asOf, settled } = useJob();
  const found = useSearch(["size", circuit.id, asOf], (watch) => sizeCircuit(store.job, circuit.id, watch), {
    enabled: open && settled,
  });
  const sizing = found.data;
  const now = circuit.run.cable.csa;
  const take = () => {
    if (sizing?.csa)
      store.edit([setFields("circuit", circuit.id, { cable: { csa: sizing.csa, cpc_csa: sizing.cpc_csa } })]);
    onOpenChange(false);
  };
  return (
    <Sheet
      open={open}
      onOpenChange={onOpenChange}
      title={sizing?.csa ? `${shortFigure(sizing.csa)} mm² is the smallest that meets` : "Size it"}
      say={SIZE_IT.routeDeviceLoad}
    >
      {found.isPending && <Progress say={SIZE_IT.tryingSizes} progress={found.progress} />}
      {found.error && <p className="mt-3 text-short">{found.error.message}</p>}
      {sizing && (
        <>
          <p className="mt-3">{sizing.reason}</p>
          <ul className="mt-3">
            {sizing.tried.map((t) => (
              <li
                key={t.csa}
                className="grid grid-cols-[1.4rem_5.5rem_1fr] items-baseline gap-x-2 border-hair border-t py-1"
              >
                <Mark verdict={t.passes ? "meets" : "short"} />
                <span className="figure">{shortFigure(t.csa)} mm²</span>
                <span className="text-faded">
                  {t.passes ? "passes" : t.text}
                  {t.left_lighting !== null && t.left_other !== null && (
                    <span className="figure block">
                      {`leaves ${left(t.left_lighting)} of volt drop for lights, ${left(t.left_other)} for the rest`}
                      {t.zs !== null && `; Zs ${quantity(t.zs, "Ω")} at the board it feeds`}
                    </span>
                  )}
                </span>
              </li>
            ))}
          </ul>
          <div className="mt-4 flex gap-2">
            {sizing.csa !== null && (
              <Button strong onClick={take} autoFocus>
                {now === sizing.csa ? "already this size" : `use ${shortFigure(sizing.csa)} mm²`}
              </Button>
            )}
            <Button onClick={() => onOpenChange(false)}>{SIZE_IT.leave}</Button>
          </div>
        </>
      )}
    </Sheet>
  );
}
