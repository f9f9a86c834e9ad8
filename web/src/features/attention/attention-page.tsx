import { useState } from "react";
import { Link } from "react-router";
import type { Attention } from "../../api/types";
import { cureOf } from "../../parts/cure";
import { usePaths } from "../../parts/paths";
import { useOverview } from "../../parts/use-overview";
import { useJob } from "../../sync/job-context";
import { glued } from "../../ui/quantity";
import { remembered } from "../../ui/remembered";
import { Mark, TONE } from "../../ui/verdict";
import { Opening } from "../../ui/view";
import { AdviceList } from "./advice-list";
import { FirstVisit } from "./first-visit";
import { nothingLeft } from "./nothing-left";
import { ReadOnSite, useToQuery } from "./read-on-site";
import { ATTENTION, ATTENTION_TITLES, atStage, atTheIntake, DONE, FIRST } from "./words";

/** Up to so many questions at the intake each have a line of their own. */
const A_FEW = 3;
const atIntake = (line: Attention) => !line.circuit && !line.board && !line.route && INTAKE.has(line.step);
const INTAKE: ReadonlySet<string> = new Set(["survey", "earthing"]);
const NOTE_KEY = "mellow-span/note-read/";

/** What needs a person, by consequence, each line one click from its cure. */
export function AttentionPage({ onCircuit }: { onCircuit: (id: string) => void }) {
  const found = useOverview();
  const paths = usePaths();
  const toQuery = useToQuery();
  const { state, inputs, name } = useJob();
  if (!state || !inputs) return <Opening />;
  const meets = state.summaries.filter((s) => s.verdict === "meets").length;
  return (
    <div className="max-w-4xl px-6 py-5 max-sm:px-3">
      <h1 className="font-semibold text-2xl">{name}</h1>
      <FirstVisit>
        <Note id={state.id} text={inputs.note} />
      </FirstVisit>
      <Level level="short" />
      <ReadOnSite />
      <Level level="not_known" />
      <Level level="close" />
      <Level level="assumed" />
      <Level level="confirm" />
      {inputs.circuits.length > 0 && state.summaries.length === 0 ? null : state.summaries.length === 0 ? (
        <p className="mt-6">
          {FIRST.start}{" "}
          <Link className="word" to={paths.survey()}>
            {FIRST.survey}
          </Link>
          {FIRST.or} <kbd className="key">n</kbd> {FIRST.type} <span className="figure">{FIRST.line}</span>
        </p>
      ) : (
        <p className="mt-6 border-hair border-t pt-3 text-faded">
          <Mark verdict="meets" /> {meets} of {state.summaries.length} circuits meet these checks with these inputs.
          {nothingLeft(state, toQuery) && (
            <>
              {" "}
              {DONE.say}{" "}
              <Link className="word" to={paths.revisions}>
                {DONE.issue}
              </Link>
              {DONE.or}{" "}
              <Link className="word" to={paths.papers("schedule")}>
                {DONE.print}
              </Link>
              .
            </>
          )}
        </p>
      )}
      {found.data && <AdviceList advice={found.data.advice} onCircuit={onCircuit} />}
    </div>
  );
}

/** What stands at one level, each line one click from its cure; nothing where no line does. */
function Level({ level }: { level: keyof typeof ATTENTION_TITLES }) {
  const paths = usePaths();
  const { state } = useJob();
  const all = state?.attention.filter((a) => a.level === level) ?? [];
  if (all.length === 0) return null;
  // What a new job has still to be asked at the intake is one errand, not a line for each answer.
  const intake = level === "not_known" ? all.filter(atIntake) : [];
  const lines = intake.length > A_FEW ? all.filter((a) => !atIntake(a)) : all;
  const first = intake.length > A_FEW ? intake[0] : undefined;
  return (
    <section className="mt-6" aria-label={ATTENTION_TITLES[level]}>
      <h2
        className={`flex items-center gap-2 font-semibold ${level === "assumed" || level === "confirm" ? "" : TONE[level]}`}
      >
        {level === "confirm" ? (
          <span className="inline-block h-4 w-4 border border-hair" />
        ) : level === "assumed" ? (
          <span className="hatch inline-block h-4 w-4 border border-hair" />
        ) : (
          <Mark verdict={level} size={16} />
        )}
        {ATTENTION_TITLES[level]}
      </h2>
      <ul className="mt-1">
        {first && (
          <li className="border-hair border-t" data-errand={intake.length}>
            <Link
              className="grid w-full grid-cols-[12rem_1fr] gap-3 py-2 text-left hover:bg-lit max-sm:grid-cols-1 max-sm:gap-0"
              to={paths.survey(first.field)}
            >
              <span className="font-semibold">{first.text}</span>
              <span>{glued(atTheIntake(intake.map((a) => a.reason)))}</span>
            </Link>
          </li>
        )}
        {lines.map((line) => (
          <li
            key={`${line.circuit}${line.board}${line.route}${line.check}${line.field}${line.text}`}
            className="border-hair border-t"
          >
            <Link
              className="grid w-full grid-cols-[12rem_1fr] gap-3 py-2 text-left hover:bg-lit max-sm:grid-cols-1 max-sm:gap-0"
              to={cureOf(line, paths)}
            >
              <span className="font-semibold">{line.text}</span>
              <span>
                {line.stage && <span className="text-faded">{atStage(line.stage)}: </span>}
                {glued(line.reason)}
              </span>
            </Link>
          </li>
        ))}
      </ul>
    </section>
  );
}

/** The note of a job, until it is put away. */
function Note({ id, text }: { id: string; text: string }) {
  const [gone, setGone] = useState(() => remembered.get(NOTE_KEY + id) === "1");
  if (!text || gone) return null;
  return (
    <div className="mt-3 border-copper border-l-4 pl-4">
      {text.split("\n").map((line) => (
        <p key={line} className="mt-1">
          {line}
        </p>
      ))}
      <button
        type="button"
        className="word mt-2"
        onClick={() => {
          remembered.set(NOTE_KEY + id, "1");
          setGone(true);
        }}
      >
        {ATTENTION.hideNote}
      </button>
    </div>
  );
}
