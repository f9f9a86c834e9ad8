import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useEffect, useState } from "react";
import { Link, useNavigate, useParams, useSearchParams } from "react-router";
import { exercise, type Marked, markExercise } from "../../api/practice";
import { isWorkedHere } from "../../api/wire";
import { askAnew } from "../../parts/ask-anew";
import { Button } from "../../ui/controls";
import { useKeptTyping } from "../../ui/kept-typing";
import { Opening } from "../../ui/view";
import { readAnswers, type Typed } from "./answers";
import { ExerciseForm } from "./exercise-form";
import { Solution } from "./solution";
import { TableSheet } from "./table-sheet";
import { EXERCISE } from "./words";

const NOTHING: Typed = {};

/** One exercise: of the seed in the address, or a new one, whose seed then stands there. */
export function ExercisePage({ person }: { person: string }) {
  const { head = "" } = useParams();
  const [query] = useSearchParams();
  const navigate = useNavigate();
  const client = useQueryClient();
  const book = query.get("book") ?? "bs7671";
  const shut = query.get("tables") === "shut";
  const seed = query.get("seed");
  const address = (next: number | null) =>
    `/practice/${head}?${new URLSearchParams({ book, ...(next === null ? {} : { seed: String(next) }), ...(shut ? { tables: "shut" } : {}) })}`;
  const found = useQuery({
    queryKey: ["exercise", book, head, seed, shut],
    queryFn: () => exercise({ head, book, seed: seed === null ? null : Number(seed), tables: !shut }),
    staleTime: Number.POSITIVE_INFINITY,
    gcTime: seed === null ? 0 : 300_000,
  });
  const drawn = found.data?.seed ?? null;
  // biome-ignore lint/correctness/useExhaustiveDependencies: the address is given its seed once one was drawn
  useEffect(() => {
    if (seed === null && drawn !== null) navigate(address(drawn), { replace: true });
  }, [seed, drawn]);
  if (found.error) return <Opening trouble={found.error.message} again={() => void found.refetch()} />;
  if (!found.data || seed === null) return <Opening />;
  const one = found.data;
  return (
    <main className="mx-auto max-w-6xl px-6 py-8 max-sm:px-3">
      <p>
        <Link className="word" to={`/practice?book=${book}`}>
          {EXERCISE.practice}
        </Link>
      </p>
      <h1 className="mt-1 font-semibold text-2xl">{one.title}</h1>
      <p className="mb-3 text-faded">
        A made-up circuit, seed <span className="figure">{one.seed}</span>
        {shut && "; closed book, as in an exam"}.
      </p>
      <One
        key={`${book} ${head} ${seed} ${shut}`}
        one={one}
        seed={Number(seed)}
        draft={`mellow-span/practice/${person}/${book}/${head}/${seed}`}
        onMarked={() => void askAnew(client, ["practice"])}
        onAnother={() => {
          client.removeQueries({ queryKey: ["exercise", book, head, null] });
          navigate(address(null));
        }}
      />
    </main>
  );
}

interface OneProps {
  seed: number;
  one: Awaited<ReturnType<typeof exercise>>;
  draft: string;
  onMarked: () => void;
  onAnother: () => void;
}

function One({ one, seed, draft, onMarked, onAnother }: OneProps) {
  const [typed, setTyped, drop] = useKeptTyping<Typed>(draft, NOTHING);
  const [wrong, setWrong] = useState<Record<string, string>>({});
  const [marked, setMarked] = useState<Marked | null>(null);
  const [number, setNumber] = useState<string | null>(null);
  const hand = useMutation({
    mutationFn: markExercise,
    onSuccess: (done) => {
      setMarked(done);
      onMarked();
    },
  });
  const mark = () => {
    const read = readAnswers(one, typed);
    setWrong(read.wrong);
    if (Object.keys(read.wrong).length === 0)
      hand.mutate({ head: one.head, book: one.book, seed, answers: read.answers });
  };
  const wrongs = marked?.marks.filter((m) => m.stands === "wrong").length ?? 0;
  return (
    <div className={`grid gap-6 ${number ? "lg:grid-cols-[minmax(0,1fr)_minmax(0,1fr)]" : ""}`}>
      <div>
        <ExerciseForm
          exercise={one}
          typed={typed}
          wrong={wrong}
          marked={marked}
          onTyped={(line, text) => {
            setTyped({ ...typed, [line]: text });
            setMarked(null);
            if (wrong[line]) setWrong(Object.fromEntries(Object.entries(wrong).filter(([id]) => id !== line)));
          }}
          onTable={setNumber}
        />
        {hand.error && (
          <p role="alert" className="mt-2 text-short">
            {hand.error.message}
          </p>
        )}
        {marked && (
          <p role="status" className="mt-3 text-[1.1rem]" data-marked={marked.whole}>
            {marked.whole
              ? EXERCISE.everyLineRight
              : wrongs > 0
                ? `The first line to look at again is ${marked.first}. Lines that follow from it are not marked down again.`
                : EXERCISE.whatFilledRight}
            {isWorkedHere(marked) && ` ${EXERCISE.notCounted}`}
          </p>
        )}
        <p className="mt-3 flex flex-wrap gap-2">
          <Button strong disabled={hand.isPending} onClick={mark}>
            {EXERCISE.mark}
          </Button>
          {marked && (
            <Button
              onClick={() => {
                drop();
                onAnother();
              }}
            >
              {EXERCISE.anotherExercise}
            </Button>
          )}
          {marked && !marked.whole && (
            <Button
              onClick={() => {
                drop();
                setMarked(null);
              }}
            >
              {EXERCISE.oneAgain}
            </Button>
          )}
        </p>
        {marked && (
          <details className="mt-4" data-solution>
            <summary className="min-h-6 cursor-pointer font-semibold hover:bg-lit">{EXERCISE.workedSolution}</summary>
            <div className="mt-2">
              <Solution marked={marked} />
            </div>
          </details>
        )}
      </div>
      {number && <TableSheet book={one.book} number={number} onClose={() => setNumber(null)} />}
    </div>
  );
}
