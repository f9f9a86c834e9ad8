import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { Link } from "react-router";
import {
  compareRevisions,
  issueJob,
  type Revision,
  type Revisions,
  revisionFile,
  revisions,
  signRevision,
} from "../../api/site";
import type { Verdict } from "../../api/types";
import { askAnew } from "../../parts/ask-anew";
import { codeOf } from "../../parts/check-code";
import { usePaths } from "../../parts/paths";
import { useSiteLog } from "../../parts/use-site-log";
import { useJob, useStore } from "../../sync/job-context";
import { useTyped } from "../../sync/typed";
import { Button } from "../../ui/controls";
import { inputClass } from "../../ui/editors";
import { useOnce } from "../../ui/once";
import { glued } from "../../ui/quantity";
import { remembered } from "../../ui/remembered";
import { clockOf, dayOf } from "../../ui/time";
import { Mark } from "../../ui/verdict";
import { REVISIONS } from "./words";

/** Revisions of the design: issued as they stood, signed after their working was read, compared with each other and with what stands now. */
export function RevisionsPage() {
  const store = useStore();
  const client = useQueryClient();
  const { state, unsent, asOf } = useJob();
  const site = useSiteLog();
  const [note, setNote] = useTyped("issue");
  const [why, setWhy] = useState("");
  const key = ["site", store.job, "revisions", asOf];
  const once = useOnce();
  const found = useQuery({
    queryKey: key,
    queryFn: () => revisions(store.job),
    placeholderData: (before) => before,
    enabled: state !== null,
  });
  if (found.isPending || !site || !state) return <p className="p-8 text-faded">{REVISIONS.loadingRevisions}</p>;
  if (found.error) return <p className="p-8 text-short">{found.error.message}</p>;
  const fresh = () => askAnew(client, ["site", store.job, "revisions"]);
  const list = found.data.revisions;
  const issue = async () => {
    setWhy("");
    try {
      await issueJob(store.job, state.version, note.trim());
      setNote("");
      await fresh();
    } catch (error) {
      setWhy(error instanceof Error ? error.message : String(error));
    }
  };
  return (
    <div className="max-w-4xl px-6 py-5 max-sm:px-3">
      <h1 className="font-semibold text-2xl">{REVISIONS.revisions}</h1>
      <p className="mt-1 text-faded">{REVISIONS.issuingFreezesDesign}</p>
      {site.designs && (
        <form
          className="no-print mt-3 flex max-w-2xl flex-wrap items-end gap-2"
          aria-label={REVISIONS.issueDesign}
          onSubmit={(event) => {
            event.preventDefault();
            void once("issue", issue);
          }}
        >
          <label className="min-w-64 flex-1">
            <span className="block text-faded">{REVISIONS.noteWhatWhat}</span>
            <input
              className={`${inputClass} mt-1`}
              maxLength={200}
              value={note}
              onChange={(event) => setNote(event.target.value)}
            />
          </label>
          <Button strong type="submit" disabled={unsent > 0}>
            issue revision {(list[0]?.number ?? 0) + 1}
          </Button>
          {why && (
            <p role="alert" className="w-full text-short">
              {why}
            </p>
          )}
        </form>
      )}
      {list.length === 0 && <p className="mt-4">{REVISIONS.notIssuedYet}</p>}
      <ul className="mt-4">
        {list.map((one) => (
          <One key={one.number} one={one} signs={site.signs ? site.person : null} onSigned={fresh} />
        ))}
      </ul>
      {list.length > 0 && <Compare list={found.data} />}
    </div>
  );
}

const failing = (one: Revision) => one.circuits.filter((c) => c.verdict === "short" || c.verdict === "not_known");

interface OneProps {
  one: Revision;
  /** The person who may sign, null for one who may not. */
  signs: string | null;
  onSigned: () => Promise<void>;
}

function One({ one, signs, onSigned }: OneProps) {
  const store = useStore();
  const bad = failing(one).length;
  const marked = one.circuits.filter((c) => c.assumed || c.doubtful).length;
  return (
    <li data-revision={one.number} className="border-hair border-t py-3">
      <h2>
        <strong>Revision {one.number}</strong>
        {one.note && `: ${one.note}`}{" "}
        {one.current ? (
          <span className="text-meets">{REVISIONS.stands}</span>
        ) : (
          <span className="text-faded">{REVISIONS.changedSince}</span>
        )}
      </h2>
      <p className="text-faded">
        Issued by {one.by}, {dayOf(one.at)} {clockOf(one.at)}; {one.edition}; check code{" "}
        <span className="figure">{codeOf(one.hash)}</span>
        {one.key ? REVISIONS.sealed : REVISIONS.notSealed}
      </p>
      <p>
        {one.circuits.length} circuits
        {bad > 0 && (
          <>
            , <span className="text-short">{bad} failing or not known</span>
          </>
        )}
        {marked > 0 && `, ${marked} with a value that is assumed or to be checked`}
      </p>
      {one.signed ? (
        <p>
          <strong>
            Signed by {one.signed}, {dayOf(one.signed_at)} {clockOf(one.signed_at)}.
          </strong>{" "}
          {one.exceptions && `Accepted: ${one.exceptions}`}
        </p>
      ) : signs !== null ? (
        <Signing one={one} person={signs} onSigned={onSigned} />
      ) : (
        <p className="text-close">{REVISIONS.notSignedSupervisor}</p>
      )}
      <p className="no-print mt-1">
        <a className="word" href={revisionFile(store.job, one.number)} download>
          {REVISIONS.saveFile}
        </a>{" "}
        <span className="text-faded">{REVISIONS.checkingMellowSpan}</span>
      </p>
    </li>
  );
}

function kept(place: string, one: Revision): ReadonlySet<string> {
  const found = remembered.data<unknown>(place, []);
  const there = new Set(one.circuits.map((c) => c.id));
  return new Set(Array.isArray(found) ? found.filter((id) => there.has(id)) : []);
}

interface SigningProps {
  one: Revision;
  person: string;
  onSigned: () => Promise<void>;
}

/** Reading the working, circuit by circuit, and then the signature. */
function Signing({ one, person, onSigned }: SigningProps) {
  const store = useStore();
  const paths = usePaths();
  // Reading leads away from here and back: what this person read is kept in this browser until it is signed.
  const place = `mellow-span/read/${person}/${one.hash}`;
  const [read, setRead] = useState<ReadonlySet<string>>(() => kept(place, one));
  const [exceptions, setExceptions] = useTyped(`exceptions/${one.hash}`);
  const [why, setWhy] = useState("");
  const bad = failing(one).length;
  const left = one.circuits.length - read.size;
  const once = useOnce();
  const sign = async () => {
    setWhy("");
    try {
      await signRevision(store.job, one.number, one.hash, [...read], exceptions.trim());
      remembered.set(place, null);
      setExceptions("");
      await onSigned();
    } catch (error) {
      setWhy(error instanceof Error ? error.message : String(error));
    }
  };
  return (
    <details className="no-print mt-1">
      <summary className="cursor-pointer py-1 font-semibold hover:bg-lit">{REVISIONS.readWorkingSign}</summary>
      {!one.current && <p className="text-close">{REVISIONS.designHasChanged}</p>}
      <ul className="mt-1">
        {one.circuits.map((c) => (
          <li key={c.id} className="grid grid-cols-[1.4rem_1fr_auto] items-center gap-x-2 border-hair border-t py-1">
            <Mark verdict={c.verdict as Verdict} />
            <span>
              <Link className="word" to={paths.circuit(c.id)}>
                {c.name}
              </Link>
              : {glued(c.headline)}
              {c.assumed && <span className="text-close">{REVISIONS.assumedValues}</span>}
              {c.doubtful && "\u00a0†"}
            </span>
            <label className="inline-flex min-h-9 items-center gap-2">
              <input
                type="checkbox"
                className="h-5 w-5"
                checked={read.has(c.id)}
                onChange={(event) => {
                  const next = new Set(read);
                  if (event.target.checked) next.add(c.id);
                  else next.delete(c.id);
                  setRead(next);
                  remembered.set(place, JSON.stringify([...next]));
                }}
              />
              working read
            </label>
          </li>
        ))}
      </ul>
      {bad > 0 && (
        <label className="mt-2 block max-w-2xl">
          <span className="block text-short">
            {bad} {bad === 1 ? "fails" : "fail"} or {bad === 1 ? "is" : "are"} not known: your comment on{" "}
            {bad === 1 ? "it" : "them"}
          </span>
          <textarea
            className={`${inputClass} mt-1`}
            rows={2}
            maxLength={1000}
            value={exceptions}
            onChange={(event) => setExceptions(event.target.value)}
          />
        </label>
      )}
      <p className="mt-2 border-hair border-l-4 pl-3">{one.statement}</p>
      <p className="mt-2">
        <Button strong disabled={left > 0 || (bad > 0 && !exceptions.trim())} onClick={() => void once("sign", sign)}>
          sign revision {one.number}
        </Button>{" "}
        {left > 0 && <span className="text-faded">{left} not read yet</span>}
      </p>
      {why && (
        <p role="alert" className="text-short">
          {why}
        </p>
      )}
    </details>
  );
}

function Compare({ list }: { list: Revisions }) {
  const store = useStore();
  const [old, setOld] = useState(list.revisions[0]?.number ?? 1);
  const [fresh, setFresh] = useState(0);
  const found = useQuery({
    queryKey: ["site", store.job, "compare", old, fresh, fresh === 0 ? list.version : null],
    queryFn: () => compareRevisions(store.job, old, fresh),
  });
  const choices = list.revisions.map((r) => r.number);
  return (
    <section className="mt-6" aria-label={REVISIONS.compareRevisions}>
      <h2 className="font-semibold text-xl">{REVISIONS.compareRevisions}</h2>
      <p className="no-print mt-1 flex flex-wrap items-center gap-2">
        <select
          aria-label={REVISIONS.revision}
          className={`${inputClass} w-auto!`}
          value={old}
          onChange={(event) => setOld(Number(event.target.value))}
        >
          {choices.map((n) => (
            <option key={n} value={n}>
              revision {n}
            </option>
          ))}
        </select>
        and
        <select
          aria-label={REVISIONS.revision2}
          className={`${inputClass} w-auto!`}
          value={fresh}
          onChange={(event) => setFresh(Number(event.target.value))}
        >
          <option value={0}>{REVISIONS.nowBuilt}</option>
          {choices.map((n) => (
            <option key={n} value={n}>
              revision {n}
            </option>
          ))}
        </select>
      </p>
      {found.isPending ? (
        <p className="text-faded">{REVISIONS.comparing}</p>
      ) : found.error ? (
        <p className="text-short">{found.error.message}</p>
      ) : found.data.lines.length === 0 ? (
        <p>{REVISIONS.noChanges}</p>
      ) : (
        <>
          <ul className="mt-1 list-disc pl-5">
            {found.data.lines.map((text) => (
              <li key={text}>{glued(text)}</li>
            ))}
          </ul>
          <ul className="mt-2">
            {found.data.circuits.map((c) => (
              <li key={c.where} className="grid grid-cols-[1.4rem_1fr] gap-x-1 border-hair border-t py-1">
                {c.after ? <Mark verdict={c.after} /> : <span />}
                <span>
                  <strong>{c.where}</strong>: {glued(c.now)} <span className="text-faded">(was {glued(c.was)})</span>
                </span>
              </li>
            ))}
          </ul>
        </>
      )}
    </section>
  );
}
