import { Link } from "react-router";
import { waysOut } from "../../api/client";
import type { Change, Circuit, Option } from "../../api/types";
import { Answer, withAnswer } from "../../parts/answer";
import { usePaths } from "../../parts/paths";
import { coppered, pricedOr } from "../../parts/price";
import { together } from "../../parts/routes";
import { CutShort, Progress, useSearch } from "../../parts/use-search";
import { useJob, useStore } from "../../sync/job-context";
import { Button, Sheet } from "../../ui/controls";
import { glued, shortFigure } from "../../ui/quantity";
import { Mark } from "../../ui/verdict";
import { FIXES, WAYS_OUT } from "./words";

interface Props {
  circuit: Circuit;
  open: boolean;
  onOpenChange: (open: boolean) => void;
}

/** The ways out of a failure, each solved again, cheapest first; nothing changes until one is taken. */
export function WaysOut({ circuit, open, onOpenChange }: Props) {
  const store = useStore();
  const paths = usePaths();
  const { state, inputs, asOf, settled } = useJob();
  const found = useSearch(["ways-out", circuit.id, asOf], (watch) => waysOut(store.job, circuit.id, watch), {
    enabled: open && settled,
  });
  const names = new Map(inputs?.circuits.map((c) => [c.id, c.name || "an unnamed circuit"]));
  const take = (option: Option, answer: number | null = null) => {
    const changes = option.changes as unknown as Change[];
    store.edit(option.ask && answer !== null ? withAnswer(changes, option.ask, answer) : changes);
    onOpenChange(false);
  };
  const verdict = state?.summaries.find((s) => s.id === circuit.id)?.verdict;
  const none = verdict === "short" ? FIXES.none : verdict === "not_known" ? FIXES.unknown : FIXES.nothing;
  const cures = found.data?.filter((o) => o.passes).length ?? 0;
  return (
    <Sheet
      open={open}
      onOpenChange={onOpenChange}
      title={circuit.existing ? "Remedial options" : "Fixes"}
      say={WAYS_OUT.eachCheckedAcross}
    >
      {found.isPending && <Progress say={WAYS_OUT.workingThemOut} progress={found.progress} />}
      <CutShort found={found.data} />
      {found.error && <p className="mt-3 text-short">{found.error.message}</p>}
      {found.data?.length === 0 && <p className="mt-3">{none}</p>}
      {found.data && found.data.length > 0 && cures === 0 && (
        <p className="mt-3">
          {found.data.some((o) => o.verdict !== "short") ? WAYS_OUT.noneCanPass : WAYS_OUT.noSingleChange}
        </p>
      )}
      <ul className="mt-3">
        {found.data?.map((option, i) => (
          <li
            key={option.id}
            data-option={option.id}
            className="grid grid-cols-[1.4rem_1fr_auto] items-baseline gap-x-3 border-hair border-t py-2"
          >
            <Mark verdict={option.verdict} />
            <span>
              <span className="font-semibold">{glued(option.title)}</span>
              <span className="block text-faded">{glued(option.reason)}</span>
              <span className="figure block">
                {pricedOr(option.cost, option.unpriced)}
                {coppered(option.copper)}
                {option.digging > 0 && `, dig ${shortFigure(option.digging)} m`}
                {option.rescues > 0 && `, also fixes ${option.rescues} more`}
                {option.breaks > 0 && `, leaves ${option.breaks} worse`}
              </span>
              {option.turned.length > 0 && (
                <span className="block text-close">worse then: {together(option.turned)}</span>
              )}
              {option.ask?.field === "" && (
                <Link className="word" to={paths.survey("ipf")}>
                  {WAYS_OUT.enterThemSurvey}
                </Link>
              )}
              {option.ask && option.ask.field !== "" && (
                <Answer
                  ask={option.ask}
                  optional={option.ask.most === null && option.ask.least === null}
                  onTake={(answer) => take(option, answer)}
                />
              )}
              {option.others.length > 0 && (
                <span className="block text-faded">
                  changes {together(option.others.map((id) => names.get(id) ?? "a circuit"))} as well
                </span>
              )}
            </span>
            {!option.ask && (
              <Button strong={i === 0 && option.passes} onClick={() => take(option)}>
                {WAYS_OUT.use}
              </Button>
            )}
          </li>
        ))}
      </ul>
      <div className="mt-4">
        <Button onClick={() => onOpenChange(false)}>{WAYS_OUT.leave}</Button>
      </div>
    </Sheet>
  );
}
