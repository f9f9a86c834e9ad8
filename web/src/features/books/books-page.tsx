import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { Link, useNavigate } from "react-router";
import { addCopy, type BesideOne, beside, bookList, listPacks } from "../../api/client";
import { usePaths } from "../../parts/paths";
import { CutShort, Progress, useSearch } from "../../parts/use-search";
import { NOBODY, setFields, useJob, useRules, useStore } from "../../sync/job-context";
import { Button } from "../../ui/controls";
import { inputClass } from "../../ui/editors";
import { useOnce } from "../../ui/once";
import { glued } from "../../ui/quantity";
import { Mark, WORDS } from "../../ui/verdict";
import { BOOKS } from "./words";

type Stand = BesideOne["checks"][number]["here"];

interface Props {
  /** The book beside the job's own; none is chosen yet where it is null. */
  other: string | null;
  onOther: (book: string) => void;
}

/** The job under its own book and under another: circuits down, both verdicts across, what decides each difference in a sentence. */
export function BooksPage({ other, onOther }: Props) {
  const store = useStore();
  const rules = useRules();
  const { state, asOf, settled } = useJob();
  const navigate = useNavigate();
  const paths = usePaths();
  const [differing, setDiffering] = useState(true);
  const [trouble, setTrouble] = useState("");
  const all = useQuery({ queryKey: ["books"], queryFn: bookList });
  const packs = useQuery({ queryKey: ["packs"], queryFn: listPacks });
  const [own = ""] = rules.id.split("+");
  const shipped = all.data ?? [];
  const chosen = other ?? shipped.find((b) => b.id !== own)?.id ?? own;
  const [base = "", ...marks] = chosen.split("+");
  const of = shipped.find((b) => b.id === base);
  const over = (packs.data ?? []).filter((p) => p.over === base && (!p.away || rules.id.includes(p.mark)));
  const names = over.filter((p) => marks.includes(p.mark)).map((p) => `${p.title} ${p.version}`);
  const book =
    of && chosen !== rules.id ? { ...of, id: chosen, title: [of.title, ...names].join(" with ") } : undefined;
  const mine = shipped.find((b) => b.id === own);
  const turn = (mark: string, on: boolean) =>
    onOther([base, ...over.map((p) => p.mark).filter((m) => (m === mark ? on : marks.includes(m)))].join("+"));
  const found = useSearch(
    ["beside", store.job, asOf, state?.cells, book?.id],
    (watch) => beside(store.job, book?.id ?? "", watch),
    { enabled: book !== undefined && settled, keep: true },
  );
  const once = useOnce();
  const asCopy = async () => {
    if (!book) return;
    try {
      await addCopy(store.job, {
        id: crypto.randomUUID(),
        name: `Under ${book.title}`,
        changes: [setFields("job", NOBODY, { ruleset: book.id })],
      });
      navigate(paths.whatIf);
    } catch (error) {
      setTrouble(error instanceof Error ? error.message : "no answer");
    }
  };
  const rows = found.data ?? [];
  const turned = rows.filter((r) => r.here !== r.there);
  // What the standards judge otherwise comes first, then what they only reckon otherwise.
  const shown = (differing ? rows.filter((r) => r.checks.some((c) => c.differs)) : rows).toSorted(
    (a, b) => Number(a.here === a.there) - Number(b.here === b.there),
  );
  return (
    <div className="px-6 py-5 max-sm:px-3" aria-busy={found.isFetching}>
      <h1 className="font-semibold text-2xl">{BOOKS.compareAnotherStandard}</h1>
      <p className="mt-1 max-w-3xl text-faded">{BOOKS.sameJobUnder}</p>
      <p className="mt-3">
        The job is designed to <strong>{rules.title}</strong>, {rules.edition}
        {mine && <Doubt to={mine.to_check} of={mine.numbers} />}.
      </p>
      <div className="mt-2 flex flex-wrap items-center gap-x-4 gap-y-2">
        <label className="flex items-center gap-2">
          <span className="text-faded">{BOOKS.compared}</span>
          <select className={`${inputClass} w-auto`} value={base} onChange={(event) => onOther(event.target.value)}>
            {shipped.map((b) => (
              <option key={b.id} value={b.id}>
                {b.title}
              </option>
            ))}
          </select>
        </label>
        {of && (
          <span>
            {of.edition}
            <Doubt to={of.to_check} of={of.numbers} />
          </span>
        )}
        {over.map((p) => (
          <label key={p.mark} className="flex min-h-6 items-center gap-2">
            <input
              type="checkbox"
              checked={marks.includes(p.mark)}
              onChange={(event) => turn(p.mark, event.target.checked)}
            />
            with {p.title} {p.version}
          </label>
        ))}
        <Link className="word" to="/packs">
          {BOOKS.ownTables}
        </Link>
      </div>
      {!book && all.data && <p className="mt-2 text-faded">{BOOKS.jobAlreadyUses}</p>}
      {(found.error || trouble) && (
        <p role="alert" className="mt-2 text-short">
          {trouble || found.error?.message}
        </p>
      )}
      {book && (found.isPending || found.progress) && <Progress say={BOOKS.workingJobOut} progress={found.progress} />}
      <CutShort found={found.data} />
      {book && rows.length > 0 && (
        <>
          <p className="mt-4 text-[1.1rem]" data-turned={turned.length}>
            {turned.length === 0
              ? BOOKS.noVerdictDiffers
              : `${turned.length} of ${rows.length} ${turned.length === 1 ? "differs" : "differ"} under ${book.title}.`}
          </p>
          <div className="mt-1 flex flex-wrap items-center gap-x-5 gap-y-1">
            <label className="flex min-h-6 items-center gap-2">
              <input type="checkbox" checked={differing} onChange={(event) => setDiffering(event.target.checked)} />
              only differences
            </label>
            <Button onClick={() => void once("copy", asCopy)}>{BOOKS.makeWhatIf}</Button>
          </div>
          <table className="mt-2 w-full border-collapse" data-beside>
            <thead>
              <tr className="border-hair border-b text-left align-top">
                <th className="font-normal text-faded">{BOOKS.partJob}</th>
                <th className="w-40 px-2 font-semibold max-sm:w-24">{rules.title}</th>
                <th className="w-40 px-2 font-semibold max-sm:w-24">{book.title}</th>
              </tr>
            </thead>
            {shown.map((row) => (
              <Row key={row.id} row={row} differing={differing} onCircuit={(id) => navigate(paths.circuit(id))} />
            ))}
          </table>
        </>
      )}
    </div>
  );
}

function Doubt({ to, of }: { to: number; of: number }) {
  if (to === 0) return null;
  const all = to === of;
  return (
    <span className="text-close">
      {" "}
      ({all ? "every number in it" : `${to} of its ${of} numbers`} not yet checked against the printed standard †)
    </span>
  );
}

interface RowProps {
  row: BesideOne;
  differing: boolean;
  onCircuit: (id: string) => void;
}

function Row({ row, differing, onCircuit }: RowProps) {
  const [open, setOpen] = useState(false);
  const turned = row.here !== row.there;
  const checks = row.checks.filter((c) => !differing || c.differs);
  return (
    <tbody className="border-hair border-b align-top" data-beside-row={row.id}>
      <tr>
        <th scope="row" className="py-1 text-left font-normal">
          <button type="button" className="word min-h-6" aria-expanded={open} onClick={() => setOpen(!open)}>
            {row.name}
          </button>
          {row.decides && <p className="max-w-2xl text-faded max-sm:hidden">{glued(row.decides)}</p>}
        </th>
        <td className={`px-2 py-1 ${turned ? "font-semibold" : ""}`}>
          <Mark verdict={row.here} /> {WORDS[row.here]}
        </td>
        <td className={`px-2 py-1 ${turned ? "font-semibold" : ""}`}>
          <Mark verdict={row.there} /> {WORDS[row.there]}
        </td>
      </tr>
      {/* On a phone the reason has the whole width, or it would stand a word a line. */}
      {row.decides && (
        <tr className="sm:hidden">
          <td colSpan={3} className="pb-1 text-faded">
            {glued(row.decides)}
          </td>
        </tr>
      )}
      {open && (
        <tr>
          <td colSpan={3} className="pb-3">
            <table className="w-full border-collapse bg-leaf">
              <tbody>
                {checks.map((c) => (
                  <tr key={c.id} className="border-hair border-t align-top" data-check={c.id}>
                    <th scope="row" className="w-44 px-2 py-1 text-left font-semibold max-sm:w-24">
                      {c.title}
                    </th>
                    <td className={`w-1/2 px-2 py-1 ${c.differs ? "border-copper border-l-4" : ""}`}>
                      <In stand={c.here} />
                    </td>
                    <td className={`px-2 py-1 ${c.differs ? "border-copper border-l-4" : ""}`}>
                      <In stand={c.there} />
                    </td>
                  </tr>
                ))}
              </tbody>
            </table>
            {row.kind === "circuit" && (
              <button type="button" className="word mt-1 min-h-6" onClick={() => onCircuit(row.id)}>
                {BOOKS.openCircuit}
              </button>
            )}
          </td>
        </tr>
      )}
    </tbody>
  );
}

function In({ stand }: { stand: Stand }) {
  if (stand.verdict === null) return <span className="text-faded">{BOOKS.notRequired}</span>;
  return (
    <>
      <Mark verdict={stand.verdict} /> {glued(stand.text)}
      {stand.doubtful && <span className="text-close"> †</span>}
      {stand.clause && <span className="text-faded"> ({stand.clause})</span>}
      {!stand.decides && <span className="text-faded">{BOOKS.informationOnly}</span>}
    </>
  );
}
