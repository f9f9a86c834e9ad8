import { useQuery } from "@tanstack/react-query";
import { useId, useState } from "react";
import { Link } from "react-router";
import { waysOut } from "../../api/client";
import { type Existing, existing, type Observation } from "../../api/site";
import { usePaths } from "../../parts/paths";
import { pricedOr } from "../../parts/price";
import { Progress, useSearch } from "../../parts/use-search";
import { type OnSite, Unsent, useSiteLog } from "../../parts/use-site-log";
import { useJob, useStore } from "../../sync/job-context";
import { useTyped } from "../../sync/typed";
import { Button } from "../../ui/controls";
import { inputClass } from "../../ui/editors";
import { glued } from "../../ui/quantity";
import { clockOf, dayOf } from "../../ui/time";
import { CHANGES, EXISTING, GRADE_WORDS, NOTHING, SOURCES } from "./words";

type Grade = Observation["grade"];
const USUAL: Record<Grade, string> = { danger: "C1", may_become: "C2", look: "FI", improve: "C3" };
const TONES: Record<Grade, string> = {
  danger: "border-short",
  may_become: "border-short",
  look: "border-close",
  improve: "border-hair",
};
const GRADES: readonly Grade[] = ["danger", "may_become", "look", "improve"];

/** What is there already: what checks, readings and the eye found in it, graded by facts, with cures; what changed since, and limits of the survey. */
export function ExistingPage() {
  const store = useStore();
  const { state, inputs, asOf } = useJob();
  const site = useSiteLog();
  const found = useQuery({
    queryKey: ["site", store.job, "existing", asOf],
    queryFn: () => existing(store.job),
    placeholderData: (before) => before,
    enabled: state !== null,
  });
  if (found.isPending || !site || !inputs)
    return <p className="p-8 text-faded">{EXISTING.loadingExistingInstallation}</p>;
  if (found.error) return <p className="p-8 text-short">{found.error.message}</p>;
  const data = found.data;
  return (
    <div className="max-w-4xl px-6 py-5 max-sm:px-3">
      <h1 className="font-semibold text-2xl">{EXISTING.existingInstallation}</h1>
      <p className="mt-1" role="status">
        {data.satisfactory === null ? (
          NOTHING.existing
        ) : data.satisfactory ? (
          <>
            <strong>{EXISTING.nothingFoundDangerous}</strong>, from what was entered, tested and inspected.
          </>
        ) : (
          <>
            <strong>{EXISTING.unsatisfactory}</strong>: something is dangerous, potentially dangerous or needs further
            investigation.
          </>
        )}
      </p>
      <p className="text-faded">{EXISTING.suggestedFactsUsual}</p>
      <Unsent site={site} />
      <Notes data={data} site={site} />
      {GRADES.map((grade) => {
        const these = data.observations.filter((o) => (o.own ?? o.grade) === grade);
        if (these.length === 0) return null;
        return (
          <section key={grade} className="mt-5" aria-label={GRADE_WORDS[grade]}>
            <h2 className="font-semibold text-xl">
              {GRADE_WORDS[grade]} <span className="font-normal text-faded">usual code {USUAL[grade]}</span>
            </h2>
            <ul>
              {these.map((one) => (
                <One key={one.key} one={one} site={site} />
              ))}
            </ul>
          </section>
        );
      })}
      <Seen data={data} site={site} />
    </div>
  );
}

function One({ one, site }: { one: Observation; site: OnSite }) {
  const paths = usePaths();
  const [open, setOpen] = useState(false);
  const id = useId();
  const [grade, setGrade] = useState<Grade>(one.own ?? one.grade);
  const [reason, setReason] = useState(one.reason);
  const unsent = site.waiting.some((e) => e.data.key === one.key);
  return (
    <li data-observation={one.key} className={`mt-2 border-l-4 pl-3 ${TONES[one.own ?? one.grade]}`}>
      <p>
        <strong>
          {one.circuit ? (
            <Link
              className="underline decoration-hair underline-offset-4 hover:bg-lit"
              to={paths.circuit(one.circuit, one.source === "check" ? { check: one.check } : {})}
            >
              {one.where}
            </Link>
          ) : (
            one.where
          )}
        </strong>
        : {glued(one.told)}
        {one.doubtful && "\u00a0†"}
      </p>
      <p className="text-faded">
        {one.why}
        {one.clause && ` (${one.clause})`}; found {SOURCES[one.source]}
        {one.assumed && "; rests on values that were assumed"}
        {unsent && "; not sent yet"}
      </p>
      {one.own && (
        <p>
          Graded by {one.by}: <strong>{GRADE_WORDS[one.own].toLowerCase()}</strong>, {one.reason}.{" "}
          <span className="text-faded">Suggested: {GRADE_WORDS[one.grade].toLowerCase()}.</span>
        </p>
      )}
      <div className="no-print flex flex-wrap gap-x-3">
        {one.circuit && one.source === "check" && <Cures circuit={one.circuit} />}
        <details onToggle={(event) => setOpen(event.currentTarget.open)}>
          <summary className="cursor-pointer py-1 hover:bg-lit">{EXISTING.changeGrade}</summary>
          {open && (
            <form
              className="mt-1 flex flex-wrap items-end gap-2"
              onSubmit={(event) => {
                event.preventDefault();
                if (reason.trim()) site.write({ kind: "graded", data: { key: one.key, grade, reason: reason.trim() } });
              }}
            >
              <label htmlFor={`${id}-grade`}>
                <span className="block text-faded">{EXISTING.grade}</span>
                <select
                  id={`${id}-grade`}
                  className={inputClass}
                  value={grade}
                  onChange={(event) => setGrade(event.target.value as Grade)}
                >
                  {GRADES.map((g) => (
                    <option key={g} value={g}>
                      {GRADE_WORDS[g]}, {USUAL[g]}
                    </option>
                  ))}
                </select>
              </label>
              <label htmlFor={`${id}-reason`} className="min-w-64 flex-1">
                <span className="block text-faded">{EXISTING.reason}</span>
                <input
                  id={`${id}-reason`}
                  className={inputClass}
                  maxLength={200}
                  value={reason}
                  onChange={(event) => setReason(event.target.value)}
                />
              </label>
              <Button type="submit" disabled={!reason.trim()}>
                {EXISTING.saveGrade}
              </Button>
            </form>
          )}
        </details>
        {one.source === "eye" && (
          <button
            type="button"
            className="word"
            onClick={() =>
              site.write({ kind: "observed", data: { what: "other", where: one.where, gone: true, key: one.key } })
            }
          >
            {EXISTING.putRightRemove}
          </button>
        )}
      </div>
    </li>
  );
}

/** The ways out of what the checks found, with numbers. */
function Cures({ circuit }: { circuit: string }) {
  const store = useStore();
  const { asOf, settled } = useJob();
  const [open, setOpen] = useState(false);
  const found = useSearch(["options", circuit, asOf], (watch) => waysOut(store.job, circuit, watch), {
    enabled: open && settled,
  });
  return (
    <details onToggle={(event) => setOpen(event.currentTarget.open)}>
      <summary className="cursor-pointer py-1 hover:bg-lit">remedies</summary>
      {open && found.isPending && <Progress say={EXISTING.workingThemOut} progress={found.progress} />}
      {found.error && <p className="text-short">{found.error.message}</p>}
      {found.data?.length === 0 && <p className="text-faded">{EXISTING.noChangeOffered}</p>}
      <ol className="list-decimal pl-5">
        {found.data?.slice(0, 3).map((o) => (
          <li key={o.id}>
            <strong>{glued(o.title)}</strong>: {glued(o.reason)};{" "}
            <span className="figure">{pricedOr(o.cost, o.unpriced)}</span>
          </li>
        ))}
      </ol>
    </details>
  );
}

function Notes({ data, site }: { data: Existing; site: OnSite }) {
  const [change, setChange] = useTyped("changed");
  const [what, setWhat] = useState("insulation");
  const [limit, setLimit] = useTyped("limit");
  const [agreed, setAgreed] = useTyped("limit/agreed");
  return (
    <section className="mt-4 grid gap-x-8 gap-y-4 sm:grid-cols-2" aria-label={EXISTING.basisInspection}>
      <div>
        <h2 className="font-semibold text-lg">{EXISTING.changesSinceInstallation}</h2>
        <NoteList
          notes={data.changes}
          told={(n) => `${CHANGES[n.what] ?? n.what}: ${n.text}`}
          onGone={(n) => site.write({ kind: "changed", data: { what: n.what, text: n.text, gone: true } })}
        />
        <form
          className="no-print mt-1 flex flex-wrap gap-2"
          onSubmit={(event) => {
            event.preventDefault();
            if (!change.trim()) return;
            site.write({ kind: "changed", data: { what, text: change.trim() } });
            setChange("");
          }}
        >
          <select
            aria-label={EXISTING.whatChanged}
            className={`${inputClass} w-auto!`}
            value={what}
            onChange={(event) => setWhat(event.target.value)}
          >
            {Object.entries(CHANGES).map(([key, title]) => (
              <option key={key} value={key}>
                {title}
              </option>
            ))}
          </select>
          <input
            aria-label={EXISTING.howAboutWhen}
            placeholder={EXISTING.howAboutWhen2}
            className={`${inputClass} min-w-40 flex-1`}
            maxLength={200}
            value={change}
            onChange={(event) => setChange(event.target.value)}
          />
          <Button type="submit" disabled={!change.trim()}>
            add
          </Button>
        </form>
      </div>
      <div>
        <h2 className="font-semibold text-lg">{EXISTING.limitations}</h2>
        <NoteList
          notes={data.limits}
          told={(n) => (n.agreed ? `${n.text}, agreed with ${n.agreed}` : n.text)}
          onGone={(n) => site.write({ kind: "limit", data: { text: n.text, agreed: n.agreed, gone: true } })}
        />
        <form
          className="no-print mt-1 flex flex-wrap gap-2"
          onSubmit={(event) => {
            event.preventDefault();
            if (!limit.trim()) return;
            site.write({ kind: "limit", data: { text: limit.trim(), agreed: agreed.trim() } });
            setLimit("");
          }}
        >
          <input
            aria-label={EXISTING.whatNotLooked}
            placeholder={EXISTING.whatWhy}
            className={`${inputClass} min-w-40 flex-1`}
            maxLength={200}
            value={limit}
            onChange={(event) => setLimit(event.target.value)}
          />
          <input
            aria-label={EXISTING.agreed}
            placeholder={EXISTING.agreed2}
            className={`${inputClass} w-32!`}
            maxLength={200}
            value={agreed}
            onChange={(event) => setAgreed(event.target.value)}
          />
          <Button type="submit" disabled={!limit.trim()}>
            add
          </Button>
        </form>
      </div>
    </section>
  );
}

interface NoteListProps {
  notes: Existing["changes"];
  told: (note: Existing["changes"][number]) => string;
  onGone: (note: Existing["changes"][number]) => void;
}

function NoteList({ notes, told, onGone }: NoteListProps) {
  return (
    <ul>
      {notes.map((n) => (
        <li key={n.id}>
          {told(n)}{" "}
          <span className="text-faded">
            {n.by}, {dayOf(n.at)} {clockOf(n.at)}
          </span>{" "}
          <button type="button" className="word no-print" onClick={() => onGone(n)}>
            {EXISTING.remove}
          </button>
        </li>
      ))}
    </ul>
  );
}

function Seen({ data, site }: { data: Existing; site: OnSite }) {
  const [what, setWhat] = useState("damaged");
  const [where, setWhere] = useTyped("seen/where");
  const [note, setNote] = useTyped("seen/note");
  const [touch, setTouch] = useState(false);
  const [burning, setBurning] = useState(false);
  return (
    <section className="no-print mt-8 max-w-2xl" aria-label={EXISTING.visualInspection}>
      <h2 className="font-semibold text-xl">{EXISTING.visualInspection}</h2>
      <form
        className="mt-1 grid gap-2"
        onSubmit={(event) => {
          event.preventDefault();
          if (!where.trim()) return;
          site.write({ kind: "observed", data: { what, where: where.trim(), note: note.trim(), touch, burning } });
          setWhere("");
          setNote("");
          setTouch(false);
          setBurning(false);
        }}
      >
        <label>
          <span className="block text-faded">{EXISTING.what}</span>
          <select className={`${inputClass} min-h-11`} value={what} onChange={(event) => setWhat(event.target.value)}>
            {Object.entries(data.seen).map(([key, title]) => (
              <option key={key} value={key}>
                {title}
              </option>
            ))}
          </select>
        </label>
        <label>
          <span className="block text-faded">{EXISTING.where}</span>
          <input
            className={`${inputClass} min-h-11`}
            maxLength={200}
            value={where}
            onChange={(event) => setWhere(event.target.value)}
          />
        </label>
        <label>
          <span className="block text-faded">{EXISTING.describe}</span>
          <input
            className={`${inputClass} min-h-11`}
            maxLength={200}
            value={note}
            onChange={(event) => setNote(event.target.value)}
          />
        </label>
        <label className="inline-flex min-h-11 items-center gap-2">
          <input type="checkbox" className="h-5 w-5" checked={touch} onChange={(e) => setTouch(e.target.checked)} />
          Live parts can be touched there now, without a tool
        </label>
        <label className="inline-flex min-h-11 items-center gap-2">
          <input type="checkbox" className="h-5 w-5" checked={burning} onChange={(e) => setBurning(e.target.checked)} />
          It is hot, charred or arcing now
        </label>
        {(touch || burning) && (
          <p role="alert" className="border-short border-l-4 pl-3">
            {EXISTING.makeSafeNow}
          </p>
        )}
        <p>
          <Button type="submit" disabled={!where.trim()}>
            add
          </Button>
        </p>
      </form>
    </section>
  );
}
