import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { Link } from "react-router";
import { type PaperKind, paperLook, papers, revisions } from "../../api/site";
import { codeOf } from "../../parts/check-code";
import { usePaths } from "../../parts/paths";
import { useStageChoice } from "../../parts/stage-choice";
import { Unsent, useSiteLog } from "../../parts/use-site-log";
import { useJob, useStore } from "../../sync/job-context";
import { inputClass } from "../../ui/editors";
import { Files, FORMS } from "./files";
import { MinorWork } from "./minor-work";
import { CHECK_CODE, DRAFT, PAPERS } from "./words";

interface Chosen {
  paper: string;
  subject: string;
  revision: number;
}

interface Props extends Chosen {
  onChoose: (chosen: Chosen) => void;
}

/** The papers of a job: what is missing on one is said before it is printed. */
export function PapersPage({ paper, subject, revision, onChoose }: Props) {
  const store = useStore();
  const { state, unsent, asOf, here } = useJob();
  const site = useSiteLog();
  const { stage, choice } = useStageChoice();
  const about = ["site", store.job, "papers", asOf, revision];
  const kinds = useQuery({
    queryKey: about,
    queryFn: () => papers(store.job, revision),
    placeholderData: (before) => before,
    enabled: state !== null,
  });
  const issued = useQuery({
    queryKey: ["site", store.job, "revisions", asOf],
    queryFn: () => revisions(store.job),
    placeholderData: (before) => before,
    enabled: state !== null,
  });
  if (kinds.isPending || !site) return <p className="p-8 text-faded">{PAPERS.loadingDocuments}</p>;
  if (kinds.error) return <p className="p-8 text-short">{kinds.error.message}</p>;
  const kind = kinds.data.find((k) => k.id === paper) ?? kinds.data[0];
  if (!kind) return null;
  return (
    <div className="max-w-5xl px-6 py-5 max-sm:px-3">
      <h1 className="font-semibold text-2xl">{PAPERS.documents}</h1>
      <p className="mt-1 text-faded">{PAPERS.madeDesignSite}</p>
      <Unsent site={site} />
      {unsent > 0 && !here && <p className="text-close">{PAPERS.someChangesNot}</p>}
      <div className="mt-3 grid grid-cols-[15rem_minmax(0,1fr)] gap-x-8 max-md:grid-cols-1">
        <nav aria-label={PAPERS.typesDocument}>
          <ul className="max-md:hidden">
            {kinds.data.map((k) => (
              <li key={k.id}>
                <button
                  type="button"
                  aria-current={k.id === kind.id ? "page" : undefined}
                  className={`w-full border-l-4 py-1 pl-3 text-left hover:bg-lit ${k.id === kind.id ? "border-copper font-semibold" : "border-transparent"}`}
                  onClick={() => onChoose({ paper: k.id, subject: "", revision })}
                >
                  {k.title}
                </button>
              </li>
            ))}
          </ul>
          <label className="md:hidden">
            <span className="block text-faded">{PAPERS.document}</span>
            <select
              className={`${inputClass} mt-1 min-h-11`}
              value={kind.id}
              onChange={(event) => onChoose({ paper: event.target.value, subject: "", revision })}
            >
              {kinds.data.map((k) => (
                <option key={k.id} value={k.id}>
                  {k.title}
                </option>
              ))}
            </select>
          </label>
        </nav>
        <section aria-label={kind.title} className="max-md:mt-4">
          <h2 className="font-semibold text-xl">{kind.title}</h2>
          <p className="text-faded">{kind.about}</p>
          {choice}
          <div className="mt-2 flex flex-wrap gap-x-4 gap-y-2">
            <label>
              <span className="block text-faded">For</span>
              <select
                className={`${inputClass} mt-1 min-h-11 w-auto max-w-full`}
                value={revision}
                onChange={(event) => onChoose({ paper: kind.id, subject, revision: Number(event.target.value) })}
              >
                <option value={0}>{PAPERS.jobNowDraft}</option>
                {issued.data?.revisions.map((r) => (
                  <option key={r.number} value={r.number}>
                    revision {r.number}
                    {r.signed ? `, signed by ${r.signed}` : ", not signed"}
                  </option>
                ))}
              </select>
            </label>
            {kind.id === "labels" ? (
              <Labels
                key={kind.id}
                kind={kind}
                subject={subject}
                onSubject={(to) => onChoose({ paper: kind.id, subject: to, revision })}
              />
            ) : (
              kind.choices.length > 0 && (
                <label>
                  <span className="block text-faded">{kind.one}</span>
                  <select
                    className={`${inputClass} mt-1 min-h-11 w-auto max-w-full`}
                    value={subject}
                    onChange={(event) => onChoose({ paper: kind.id, subject: event.target.value, revision })}
                  >
                    <option value="">{kind.all || `choose a ${kind.one}`}</option>
                    {kind.choices.map((c) => (
                      <option key={c.id} value={c.id}>
                        {c.title}
                      </option>
                    ))}
                  </select>
                </label>
              )
            )}
          </div>
          {kind.one && !kind.all && !subject && kind.id !== "labels" ? (
            <p className="mt-4">Choose a {kind.one} first.</p>
          ) : (
            <>
              {kind.id === "minor_work" && revision === 0 && <MinorWork key={subject} circuit={subject} site={site} />}
              <Before
                key={`${kind.id} ${subject} ${revision} ${stage}`}
                paper={kind.id}
                subject={subject}
                revision={revision}
                stage={stage}
              />
            </>
          )}
        </section>
      </div>
    </div>
  );
}

/** What will be missing on a paper, and then its files. */
function Before({ paper, subject, revision, stage }: Chosen & { stage: string }) {
  const store = useStore();
  const paths = usePaths();
  const { asOf } = useJob();
  const [all, setAll] = useState(false);
  const look = useQuery({
    queryKey: ["site", store.job, "paper", asOf, paper, subject, revision, stage],
    queryFn: () => paperLook(store.job, paper, subject, revision, stage),
    placeholderData: (before) => before,
  });
  if (look.isPending) return <p className="mt-4 text-faded">{PAPERS.checkingWhatMissing}</p>;
  if (look.error) return <p className="mt-4 text-short">{look.error.message}</p>;
  const { missing, legend, revision: told, hash } = look.data;
  const shown = all ? missing : missing.slice(0, 6);
  return (
    <div className="mt-4">
      {missing.length > 0 ? (
        <div className="border-close border-l-4 pl-3" data-missing={missing.length}>
          <p className="font-semibold">{PAPERS.missingMarkedSo}</p>
          <ul className="list-disc pl-5">
            {shown.map((one) => (
              <li key={one}>{one}</li>
            ))}
          </ul>
          {missing.length > shown.length && (
            <button type="button" className="word min-h-9" onClick={() => setAll(true)}>
              {missing.length - shown.length} more
            </button>
          )}
        </div>
      ) : (
        <p data-missing={0}>{PAPERS.nothingMissing}</p>
      )}
      <Files asked={{ paper, subject, revision, stage }} forms={FORMS} />
      <p className="mt-4 text-faded">
        {told}.{" "}
        {revision === 0 && (
          <Link className="word" to={paths.revisions}>
            {DRAFT}
          </Link>
        )}
      </p>
      {legend.map((line) => (
        <p key={line} className="text-faded">
          {line}
        </p>
      ))}
      <details className="text-faded">
        <summary className="min-h-6 cursor-pointer">
          {CHECK_CODE} <span className="figure">{codeOf(hash)}</span>
        </summary>
        <span className="figure break-all">{hash}</span>
      </details>
    </div>
  );
}

interface LabelsProps {
  kind: PaperKind;
  subject: string;
  onSubject: (subject: string) => void;
}

/** Which labels on which sheet, and where the first of them goes: sheets are often begun already. */
function Labels({ kind, subject, onSubject }: LabelsProps) {
  const [what = "ends", size = "65", first = "1"] = subject ? subject.split("/") : [];
  return (
    <>
      <label>
        <span className="block text-faded">{kind.one}</span>
        <select
          className={`${inputClass} mt-1 min-h-11 w-auto max-w-full`}
          value={`${what}/${size}`}
          onChange={(event) => onSubject(`${event.target.value}/${first}`)}
        >
          {kind.choices.map((c) => (
            <option key={c.id} value={c.id}>
              {c.title}
            </option>
          ))}
        </select>
      </label>
      <label>
        <span className="block text-faded">{PAPERS.firstFreeLabel}</span>
        <input
          className={`${inputClass} figure mt-1 min-h-11 w-24`}
          inputMode="numeric"
          value={first}
          onChange={(event) => onSubject(`${what}/${size}/${event.target.value}`)}
        />
      </label>
    </>
  );
}
