import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { Link, useSearchParams } from "react-router";
import defaults from "../../api/defaults.gen.json";
import { type Head, type Paper, practice, practicePapers, takePaperBack } from "../../api/practice";
import { askAnew } from "../../parts/ask-anew";
import { Ask } from "../../ui/ask";
import { inputClass } from "../../ui/editors";
import { dayOf } from "../../ui/time";
import { Opening } from "../../ui/view";
import { SLIPS } from "./answers";
import { NewPaper } from "./new-paper";
import { PRACTICE } from "./words";

/** What there is to practise, how the person stands in each head, and the papers that are set. */
export function PracticePage({ supervises }: { supervises: boolean }) {
  const [query, setQuery] = useSearchParams();
  const book = query.get("book") ?? defaults.book;
  const shut = query.get("tables") === "shut";
  const found = useQuery({ queryKey: ["practice", book], queryFn: () => practice(book), placeholderData: (b) => b });
  if (found.error) return <Opening trouble={found.error.message} again={() => void found.refetch()} />;
  if (!found.data) return <Opening />;
  const set = (next: { book?: string; tables?: string }) =>
    setQuery(
      Object.fromEntries(Object.entries({ book, tables: shut ? "shut" : "", ...next }).filter(([, value]) => value)),
      { replace: true },
    );
  return (
    <main className="mx-auto max-w-4xl px-6 py-8 max-sm:px-3">
      <h1 className="font-semibold text-2xl">{PRACTICE.practice}</h1>
      <p className="mt-1 max-w-3xl text-faded">{PRACTICE.madeUpCircuits}</p>
      <div className="mt-3 flex flex-wrap items-center gap-x-5 gap-y-2">
        <label className="flex items-center gap-2">
          <span className="text-faded">by</span>
          <select
            className={`${inputClass} w-auto`}
            aria-label={PRACTICE.book}
            value={book}
            onChange={(event) => set({ book: event.target.value })}
          >
            {found.data.books.map(([id, title]) => (
              <option key={id} value={id}>
                {title}
              </option>
            ))}
          </select>
        </label>
        <label className="flex min-h-6 items-center gap-2">
          <input
            type="checkbox"
            checked={shut}
            onChange={(event) => set({ tables: event.target.checked ? "shut" : "" })}
          />
          closed book, as in an exam
        </label>
      </div>
      <ol className="mt-4">
        {found.data.heads.map((head, i) => (
          <li key={head.id} className="border-hair border-t py-2" data-head={head.id}>
            <div className="relative flex flex-wrap items-baseline gap-x-3 pl-9">
              <span className="figure absolute left-0 w-6 text-right text-faded">{i + 1}</span>
              <Link
                className="word font-semibold"
                to={`/practice/${head.id}?${new URLSearchParams({ book, ...(shut ? { tables: "shut" } : {}) })}`}
              >
                {head.title}
              </Link>
              <span className="text-faded">{head.about}</span>
            </div>
            <Stood head={head} />
          </li>
        ))}
      </ol>
      <Papers supervises={supervises} heads={found.data.heads} book={book} />
    </main>
  );
}

/** How the person stands in a head: in words, and the last tries by shape. */
function Stood({ head }: { head: Head }) {
  if (head.tried === 0) return <p className="ml-9 text-faded">{PRACTICE.notTriedYet}</p>;
  return (
    <p className="ml-9 flex flex-wrap items-center gap-x-3">
      <span>
        {head.whole} of {head.tried} fully correct
      </span>
      <span role="img" aria-label={`the last ${head.last.length}, the newest first`} className="inline-flex gap-1">
        {head.last.map((whole, i) => (
          // biome-ignore lint/suspicious/noArrayIndexKey: tries have no identity beyond their order
          <svg key={i} viewBox="0 0 10 10" width="10" height="10" aria-hidden="true" className="text-ink">
            <circle
              cx="5"
              cy="5"
              r="4"
              fill={whole ? "currentColor" : "none"}
              stroke="currentColor"
              strokeWidth="1.4"
            />
          </svg>
        ))}
      </span>
      {head.slips.length > 0 && (
        <span className="text-faded">most often: {head.slips.map((s) => SLIPS[s.kind] ?? s.kind).join(", ")}</span>
      )}
    </p>
  );
}

function Papers({ supervises, heads, book }: { supervises: boolean; heads: readonly Head[]; book: string }) {
  const client = useQueryClient();
  const found = useQuery({ queryKey: ["practice-papers"], queryFn: practicePapers });
  const [leaving, setLeaving] = useState<Paper | null>(null);
  const again = () => void askAnew(client, ["practice-papers"]);
  const takeBack = useMutation({
    mutationFn: takePaperBack,
    onSettled: () => {
      setLeaving(null);
      again();
    },
  });
  const papers = (found.data ?? []).filter((p) => !p.away || p.stage === "handed" || supervises);
  return (
    <section className="mt-8" aria-label={PRACTICE.papers}>
      <h2 className="font-semibold text-xl">{PRACTICE.papers}</h2>
      {supervises && <NewPaper heads={heads} book={book} onSet={again} />}
      {takeBack.error && <p className="text-short">{takeBack.error.message}</p>}
      {found.data && papers.length === 0 && <p className="text-faded">{PRACTICE.noPapersSet}</p>}
      <ul className="mt-2">
        {papers.map((p) => (
          <li key={p.id} className="border-hair border-t py-2" data-paper={p.id}>
            <div className="flex flex-wrap items-baseline gap-x-3">
              <strong>{p.title}</strong>
              <span className="text-faded">
                {p.exercises} {p.exercises === 1 ? "exercise" : "exercises"}
                {p.minutes > 0 ? `, ${p.minutes} minutes` : ", no limit"}, {p.tables ? "open" : "closed"} book; set by{" "}
                {p.by || "somebody"}, {dayOf(p.at)}
              </span>
            </div>
            <p className="text-faded">{p.heads.join(", ")}</p>
            <p className="flex flex-wrap gap-x-4">
              {p.stage === "handed" ? (
                <Link className="word min-h-6" to={`/practice/papers/${p.id}`}>
                  {p.whole} of {p.exercises} fully correct: show it
                </Link>
              ) : p.away ? (
                <span className="text-faded">withdrawn</span>
              ) : (
                <Link className="word min-h-6" to={`/practice/papers/${p.id}`}>
                  {p.stage === "begun" ? "go on" : p.minutes > 0 ? "start: the clock starts now" : "start"}
                </Link>
              )}
              {supervises && (
                <>
                  <Link className="word min-h-6" to={`/practice/papers/${p.id}/results`}>
                    results of {p.handed}
                  </Link>
                  <Link className="word min-h-6" to={`/practice/papers/${p.id}/print`}>
                    {PRACTICE.print}
                  </Link>
                  {!p.away && (
                    <button type="button" className="word min-h-6" onClick={() => setLeaving(p)}>
                      {PRACTICE.withdraw}
                    </button>
                  )}
                </>
              )}
            </p>
          </li>
        ))}
      </ul>
      <Ask
        open={leaving !== null}
        title={`Take “${leaving?.title}” back?`}
        say={PRACTICE.noOneElse}
        yes="withdraw it"
        onYes={() => leaving && takeBack.mutate(leaving.id)}
        onClose={() => setLeaving(null)}
      />
    </section>
  );
}
