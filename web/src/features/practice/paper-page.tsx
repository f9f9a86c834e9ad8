import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useEffect, useState } from "react";
import { Link, useParams } from "react-router";
import { handPaperIn, paperResults, practicePapers, printedPaper, type Result, sitPaper } from "../../api/practice";
import { askAnew } from "../../parts/ask-anew";
import { Ask } from "../../ui/ask";
import { Button } from "../../ui/controls";
import { useKeptTyping } from "../../ui/kept-typing";
import { shortFigure } from "../../ui/quantity";
import { clockOf, dayOf } from "../../ui/time";
import { Opening } from "../../ui/view";
import { readAnswers, type Typed } from "./answers";
import { ExerciseForm } from "./exercise-form";
import { TableSheet } from "./table-sheet";
import { PAPER } from "./words";

const NONE: Typed[] = [];
const ignore = () => undefined;

function Top({ title }: { title: string }) {
  return (
    <>
      <p className="no-print">
        <Link className="word" to="/practice">
          {PAPER.practice}
        </Link>
      </p>
      <h1 className="mt-1 font-semibold text-2xl">{title}</h1>
    </>
  );
}

/** A paper: sat, or, once handed in, as it was marked. */
export function PaperPage({ person }: { person: string }) {
  const { paperId = "" } = useParams();
  const all = useQuery({ queryKey: ["practice-papers"], queryFn: practicePapers });
  const line = all.data?.find((p) => p.id === paperId);
  if (all.error) return <Opening trouble={all.error.message} again={() => void all.refetch()} />;
  if (!all.data) return <Opening />;
  if (line?.stage === "handed") return <PaperResults />;
  return <Sitting id={paperId} person={person} />;
}

function Sitting({ id, person }: { id: string; person: string }) {
  const client = useQueryClient();
  const found = useQuery({
    queryKey: ["sitting", id],
    queryFn: () => sitPaper(id),
    staleTime: Number.POSITIVE_INFINITY,
  });
  const [typed, setTyped, drop] = useKeptTyping<Typed[]>(`mellow-span/practice/${person}/paper/${id}`, NONE);
  const [wrong, setWrong] = useState<Record<string, string>[]>([]);
  const [number, setNumber] = useState<string | null>(null);
  const [asking, setAsking] = useState(false);
  const hand = useMutation({
    mutationFn: () =>
      handPaperIn(
        id,
        (found.data?.exercises ?? []).map((e, i) => readAnswers(e, typed[i] ?? {}).answers),
      ),
    onSuccess: (done) => {
      drop();
      client.setQueryData(["paper-results", id], done);
      void askAnew(client, ["practice-papers"]);
    },
    onSettled: () => setAsking(false),
  });
  if (found.error) return <Opening trouble={found.error.message} />;
  if (!found.data) return <Opening />;
  const { paper, exercises, ends, now } = found.data;
  const open = exercises.reduce((sum, e, i) => sum + e.lines.filter((x) => !(typed[i]?.[x.id] ?? "").trim()).length, 0);
  const ask = () => {
    const each = exercises.map((e, i) => readAnswers(e, typed[i] ?? {}).wrong);
    setWrong(each);
    if (each.every((w) => Object.keys(w).length === 0)) setAsking(true);
  };
  return (
    <main className="mx-auto max-w-6xl px-6 py-8 max-sm:px-3">
      <Top title={paper.title} />
      <p className="text-faded">
        {paper.exercises} exercises, {paper.tables ? "open" : "closed"} book. {ends && <Left ends={ends} now={now} />}{" "}
        {PAPER.whatTypedKept}
      </p>
      <div className={`mt-4 grid gap-6 ${number ? "lg:grid-cols-[minmax(0,1fr)_minmax(0,1fr)]" : ""}`}>
        <div>
          {exercises.map((e, i) => (
            // biome-ignore lint/suspicious/noArrayIndexKey: the exercises of a paper have no identity beyond their order
            <section key={i} className="mb-8" aria-label={`Exercise ${i + 1}`}>
              <h2 className="mb-1 font-semibold text-lg">
                {i + 1}. {e.title}
              </h2>
              <ExerciseForm
                exercise={e}
                typed={typed[i] ?? {}}
                wrong={wrong[i] ?? {}}
                marked={null}
                onTyped={(line, text) => {
                  const next = exercises.map((_, k) => typed[k] ?? {});
                  next[i] = { ...next[i], [line]: text };
                  setTyped(next);
                }}
                onTable={paper.tables ? setNumber : undefined}
              />
            </section>
          ))}
          {wrong.some((w) => Object.keys(w).length > 0) && (
            <p role="alert" className="text-short">
              {PAPER.someAnswersNot}
            </p>
          )}
          {hand.error && (
            <p role="alert" className="text-short">
              {hand.error.message}
            </p>
          )}
          <Button strong disabled={hand.isPending} onClick={ask}>
            {PAPER.hand}
          </Button>
        </div>
        {number && (
          <div className="lg:sticky lg:top-4 lg:self-start">
            <TableSheet book={paper.book} number={number} onClose={() => setNumber(null)} />
          </div>
        )}
      </div>
      <Ask
        open={asking}
        title={`Hand “${paper.title}” in?`}
        say={
          open > 0
            ? `${open} ${open === 1 ? "line is" : "lines are"} still blank. You can hand in only once.`
            : PAPER.paperHandedOnce
        }
        yes="hand it in"
        onYes={() => hand.mutate()}
        onClose={() => setAsking(false)}
      />
    </main>
  );
}

/** How long there is left, by the clock of the server, in whole minutes. */
function Left({ ends, now }: { ends: string; now: string }) {
  const [skew] = useState(() => new Date(now).getTime() - Date.now());
  const [at, setAt] = useState(() => Date.now());
  useEffect(() => {
    const timer = setInterval(() => setAt(Date.now()), 10_000);
    return () => clearInterval(timer);
  }, []);
  const left = Math.ceil((new Date(ends).getTime() - at - skew) / 60_000);
  return (
    <strong role="timer">{left > 0 ? `${left} ${left === 1 ? "minute" : "minutes"} left.` : PAPER.timeUpCan}</strong>
  );
}

/** What came of a paper: one's own, or everybody's for who sets papers. */
export function PaperResults() {
  const { paperId = "" } = useParams();
  const found = useQuery({ queryKey: ["paper-results", paperId], queryFn: () => paperResults(paperId) });
  if (found.error) return <Opening trouble={found.error.message} />;
  if (!found.data) return <Opening />;
  const { paper, results } = found.data;
  return (
    <main className="mx-auto max-w-4xl px-6 py-8 max-sm:px-3">
      <Top title={paper.title} />
      {results.length === 0 && <p className="mt-3">{PAPER.nobodyHasHanded}</p>}
      {results.map((r) => (
        <One key={`${r.name} ${r.begun}`} result={r} alone={results.length === 1} />
      ))}
    </main>
  );
}

function One({ result, alone }: { result: Result; alone: boolean }) {
  return (
    <details className="border-hair border-t py-2" open={alone} data-result={result.name}>
      <summary className="cursor-pointer hover:bg-lit">
        <strong>{result.name}</strong>: {result.whole} of {result.exercises.length} fully correct
        {result.handed && `, handed in ${dayOf(result.handed)} ${clockOf(result.handed)}`}
        {result.late > 0 && (
          <span className="text-short">
            , {result.late} {result.late === 1 ? "minute" : "minutes"} late
          </span>
        )}
      </summary>
      {result.exercises.map((e, i) => {
        const marked = result.marked[i] ?? null;
        const typed = Object.fromEntries(
          (marked?.marks ?? []).map((m) => [m.id, m.answer === null ? "" : shortFigure(m.answer)]),
        );
        return (
          <section key={`${e.head} ${e.seed}`} className="mt-4" aria-label={`Exercise ${i + 1}`}>
            <h2 className="mb-1 font-semibold">
              {i + 1}. {e.title}
            </h2>
            <ExerciseForm exercise={e} typed={typed} wrong={{}} marked={marked} onTyped={ignore} locked />
          </section>
        );
      })}
    </details>
  );
}

/** A paper on paper: the exercises with room for the figures, and on a page of their own the answers. */
export function PrintedPaper() {
  const { paperId = "" } = useParams();
  const found = useQuery({ queryKey: ["printed-paper", paperId], queryFn: () => printedPaper(paperId) });
  if (found.error) return <Opening trouble={found.error.message} />;
  if (!found.data) return <Opening />;
  const { paper, exercises, answers, seed } = found.data;
  const about = `${paper.exercises} exercises, ${paper.minutes > 0 ? `${paper.minutes} minutes` : "no limit"}, ${paper.tables ? "open" : "closed"} book, seed ${seed}`;
  return (
    <main className="mx-auto max-w-4xl px-6 py-8 max-sm:px-3">
      <Top title={paper.title} />
      <p>{about}</p>
      <p className="no-print mt-2">
        <Button strong onClick={() => globalThis.print()}>
          {PAPER.printAnswersSeparate}
        </Button>
      </p>
      <p className="mt-4">{PAPER.nameDate}</p>
      {exercises.map((e, i) => (
        <section key={`${e.head} ${e.seed}`} className="mt-5 break-inside-avoid" aria-label={`Exercise ${i + 1}`}>
          <h2 className="font-semibold">
            {i + 1}. {e.title}
          </h2>
          {e.story.map((text) => (
            <p key={text}>{text}</p>
          ))}
          <p className="text-faded">
            {e.given.map((g) => `${g.id} ${g.value === null ? "" : shortFigure(g.value)} ${g.unit}`.trim()).join("; ")}
          </p>
          <ul className="mt-1">
            {e.lines.map((line) => (
              <li key={line.id} className="flex justify-between gap-4 border-hair border-b py-1.5">
                <span>
                  {!line.decides && <span className="figure mr-2 font-semibold">{line.symbol}</span>}
                  {line.ask}
                </span>
                <span className="whitespace-nowrap">{line.decides ? "yes / no" : `______________ ${line.unit}`}</span>
              </li>
            ))}
          </ul>
        </section>
      ))}
      <section className="mt-8 break-before-page" aria-label={PAPER.answers}>
        <h2 className="font-semibold text-xl">Answers: {paper.title}</h2>
        <p>{about}</p>
        {answers.map((a, i) => (
          <p key={`${exercises[i]?.head} ${exercises[i]?.seed}`} className="mt-2">
            <strong>{i + 1}.</strong>{" "}
            {a.marks
              .map((m) => {
                const line = exercises[i]?.lines.find((x) => x.id === m.id);
                return line?.decides
                  ? m.right === 1
                    ? "yes"
                    : "no"
                  : `${m.id} ${shortFigure(m.right)} ${line?.unit ?? ""}`.trim();
              })
              .join("; ")}
          </p>
        ))}
      </section>
    </main>
  );
}
