import { useQuery, useQueryClient } from "@tanstack/react-query";
import type { ReactNode } from "react";
import { Link } from "react-router";
import { type PullLine, type PullList, pullList, type SiteRules, setSiteRules } from "../../api/site";
import { askAnew } from "../../parts/ask-anew";
import { usePaths } from "../../parts/paths";
import { useStageChoice } from "../../parts/stage-choice";
import { type OnSite, Unsent, useSiteLog } from "../../parts/use-site-log";
import { useJob, useStore } from "../../sync/job-context";
import type { NewEntry, SiteEntry } from "../../sync/site/state";
import { NumberField } from "../../ui/editors";
import { glued, quantity } from "../../ui/quantity";
import { clockOf, dayOf } from "../../ui/time";
import { CuttingPlan } from "./cutting-plan";
import { NOTHING, PULL, TO_BOARDS } from "./words";

const SLACK = { lo: 0, hi: 20, unit: "m" };

/** The pull list on site: every cable numbered, with the length to cut, in the order of pulling; ticked off with a thumb, also without a signal. */
export function PullPage() {
  const store = useStore();
  const client = useQueryClient();
  const { state, asOf } = useJob();
  const site = useSiteLog();
  const { stage, choice } = useStageChoice();
  const found = useQuery({
    queryKey: ["site", store.job, "pulls", asOf, stage],
    queryFn: () => pullList(store.job, stage),
    placeholderData: (before) => before,
    enabled: state !== null,
  });
  if (found.isPending || !site) return <p className="p-8 text-faded">{PULL.workingOutCable}</p>;
  if (found.error) return <p className="p-8 text-short">{found.error.message}</p>;
  const rules = async (changed: Partial<SiteRules>) => {
    await setSiteRules({ ...found.data.slack, drums: found.data.drums, ...changed });
    await askAnew(client, ["site", store.job]);
  };
  return <Shown list={found.data} site={site} onRules={rules} choice={choice} />;
}

interface ShownProps {
  list: PullList;
  site: OnSite;
  /** Where the stage is chosen whose work it is. */
  choice: ReactNode;
  onRules: (rules: Partial<SiteRules>) => Promise<void>;
}

function Shown({ list, site, onRules, choice }: ShownProps) {
  const paths = usePaths();
  const lines = list.lines.map((line) => laidOver(line, site.waiting, site.name));
  const done = lines.filter((l) => l.done).length;
  const lots = [...new Set(lines.map((l) => l.pull.bundle))];
  return (
    <div className="max-w-4xl px-6 py-5 max-sm:px-3">
      <h1 className="font-semibold text-2xl">{PULL.cableList}</h1>
      {choice}
      {lines.length === 0 ? (
        <p className="mt-1" role="status">
          {NOTHING.cables}{" "}
          <Link className="word" to={paths.boards}>
            {TO_BOARDS}
          </Link>
        </p>
      ) : (
        <p className="mt-1" role="status">
          <strong>
            {done} of {lines.length} pulled in.
          </strong>{" "}
          <span className="text-faded">{PULL.cablesOnePull}</span>
        </p>
      )}
      <Unsent site={site} />
      {lots.map((lot) => {
        const these = lines.filter((l) => l.pull.bundle === lot);
        const routes = these[0]?.pull.routes ?? [];
        return (
          <section key={lot} className="mt-4" aria-label={`Pull ${lot}`}>
            {(these.length > 1 || routes.length > 0) && (
              <h2 className="text-faded">Together{routes.length > 0 && `, by ${routes.join(", ")}`}</h2>
            )}
            <ul>
              {these.map((line) => (
                <Line key={line.pull.circuit} line={line} onSay={site.write} />
              ))}
            </ul>
          </section>
        );
      })}
      <CuttingPlan list={list} site={site} onDrums={(drums) => onRules({ drums })} />
      <section className="no-print mt-6 max-w-xl" aria-label={PULL.extraLength}>
        <h2 className="font-semibold text-xl">{PULL.extraLengthEach}</h2>
        <p className="text-faded">{PULL.firmsRuleAll}</p>
        <div className="mt-1 grid grid-cols-3 gap-3 max-sm:grid-cols-1">
          {(
            [
              ["board", "at a board"],
              ["end", "at other ends"],
              ["undecided", "where the end is not decided"],
            ] as const
          ).map(([field, title]) =>
            site.designs ? (
              <NumberField
                key={field}
                label={title}
                value={list.slack[field]}
                limits={SLACK}
                onSave={(value) => value !== null && void onRules({ [field]: value })}
              />
            ) : (
              <p key={field}>
                {title} <span className="figure">{quantity(list.slack[field], "m")}</span>
              </p>
            ),
          )}
        </div>
      </section>
    </div>
  );
}

interface Marked extends PullLine {
  unsent: boolean;
}

/** A line with what was ticked off here and is not sent yet laid over it. */
function laidOver(line: PullLine, waiting: readonly SiteEntry[], name: string): Marked {
  const mine = waiting.filter((e) => e.subject === line.pull.circuit);
  const last = mine.findLast((e) => e.kind === "pulled");
  const end = mine.findLast((e) => e.kind === "undecided");
  const open = end ? end.data.undecided === true : line.pull.open;
  const done = last?.data.done === true;
  const ticked = last ? { done, by: done ? name : "", at: done ? last.at : null } : {};
  return { ...line, ...ticked, pull: { ...line.pull, open }, unsent: mine.length > 0 };
}

function Line({ line, onSay }: { line: Marked; onSay: (entry: NewEntry) => void }) {
  const { pull } = line;
  return (
    <li
      data-pull={pull.number}
      className="grid grid-cols-[3.5rem_1fr_auto] items-center gap-x-3 border-hair border-t py-2 max-sm:grid-cols-[3.5rem_1fr]"
    >
      <button
        type="button"
        aria-pressed={line.done}
        aria-label={`${pull.number} ${pull.name}: ${line.done ? "pulled in" : "not pulled in yet"}`}
        className={`min-h-14 rounded-sm border text-xl max-sm:row-span-2 ${line.done ? "border-meets bg-meets text-paper" : "border-hair bg-paper hover:bg-lit"}`}
        onClick={() => onSay({ kind: "pulled", subject: pull.circuit, data: { done: !line.done } })}
      >
        <span className="figure">{pull.number}</span>
      </button>
      <div className="min-w-0">
        <p>
          <strong>{pull.name}</strong>: {glued(pull.cable)}
          {pull.count > 1 && `, ${pull.count} of them`}
          {pull.spare && <span className="text-faded">{PULL.notConnected}</span>}
          {pull.later && <span className="text-faded">, future</span>}
          {pull.kept && <span className="text-faded">, {pull.kept}</span>}
        </p>
        <p className="text-faded">
          {pull.start} to {pull.end}; labels “{pull.tags[0]}” and “{pull.tags[1]}”
          {pull.across !== null &&
            glued(`; ${quantity(pull.across, "mm")} overall diameter${pull.doubtful ? "\u00a0†" : ""}`)}
          {pull.sleeve !== null &&
            glued(
              `; sleeve ${quantity(pull.sleeve, "mm")}${pull.across === null ? " over each core" : ""}${pull.doubtful ? "\u00a0†" : ""}`,
            )}
        </p>
        {pull.pieces.length > 0 && (
          <p data-pieces={pull.pieces.length}>
            {`in ${pull.pieces.length} pieces: `}
            {pull.pieces.map((piece, i) => (
              <span key={`${piece.start}/${piece.end}`}>
                {i > 0 && ", "}
                {piece.start} to {piece.end}
                {piece.cut !== null && (
                  <span className="figure whitespace-nowrap">{` ${quantity(piece.cut, "m")}`}</span>
                )}
                {piece.cable && ` of ${piece.cable}`}
              </span>
            ))}
          </p>
        )}
        <p className="flex flex-wrap gap-x-3">
          <label className="inline-flex min-h-8 items-center gap-2">
            <input
              type="checkbox"
              className="h-5 w-5"
              checked={pull.open}
              onChange={(event) =>
                onSay({ kind: "undecided", subject: pull.circuit, data: { undecided: event.target.checked } })
              }
            />
            far end not decided
          </label>
          {line.done && (
            <span>
              pulled in by {line.by || "somebody"}
              {line.at && `, ${dayOf(line.at)} ${clockOf(line.at)}`}
            </span>
          )}
          {line.unsent && <span className="text-close">{PULL.notSentYet}</span>}
        </p>
      </div>
      <p className="text-right max-sm:col-start-2 max-sm:row-start-1 max-sm:flex max-sm:items-baseline max-sm:gap-x-3 max-sm:text-left">
        {pull.cut === null ? (
          <span className="text-short">{pull.why}</span>
        ) : (
          <>
            <span className="figure whitespace-nowrap text-xl">{quantity(pull.cut, "m")}</span>
            <span className="block text-faded text-sm">run {quantity(pull.run ?? 0, "m")}</span>
          </>
        )}
      </p>
    </li>
  );
}
