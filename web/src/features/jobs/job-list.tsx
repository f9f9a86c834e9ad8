import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState, useSyncExternalStore } from "react";
import { Link } from "react-router";
import {
  actIn,
  addJob,
  archiveJob,
  bringJobBack,
  importJob,
  jobFile,
  listJobs,
  reach,
  removeJob,
} from "../../api/client";
import type { JobLine } from "../../api/types";
import { askAnew } from "../../parts/ask-anew";
import { pathsOf } from "../../parts/paths";
import { takeIn } from "../../parts/person";
import { waiting } from "../../sync/shelf";
import { siteWaiting } from "../../sync/site/shelf";
import { Ask } from "../../ui/ask";
import { Button } from "../../ui/controls";
import { inputClass } from "../../ui/editors";
import { save } from "../../ui/save";
import { dayOf } from "../../ui/time";
import { Mark } from "../../ui/verdict";
import { ClientLinks } from "./client-links";
import { JobMenu } from "./job-menu";
import { NewJob } from "./new-job";
import { JOB_LIST, NO_PAGE, NO_START, stageOf } from "./words";

interface Props {
  person: string;
  /** started: it is new, and begins with its survey. */
  onOpen: (id: string, started?: boolean) => void;
  caution: React.ReactNode;
  /** Their firms; more than one are chosen from. */
  firms: readonly { member: number; name: string }[];
  /** Whether the person starts and changes jobs; somebody who does not looks and proposes. */
  designs: boolean;
  /** They came from an address that leads nowhere. */
  lost?: boolean;
}

/** The jobs of the firm, each with how it stands; searched, page by page, and those put away apart. */
export function JobList({ person, onOpen, caution, firms, designs, lost = false }: Props) {
  const client = useQueryClient();
  const [search, setSearch] = useState("");
  const [which, setWhich] = useState<"open" | "away" | "bin">("open");
  const archived = which === "away";
  const removed = which === "bin";
  const [page, setPage] = useState(1);
  const [linking, setLinking] = useState<JobLine | null>(null);
  const [leaving, setLeaving] = useState<JobLine | null>(null);
  const jobs = useQuery({
    queryKey: ["jobs", search, which, page],
    queryFn: () => listJobs(search, archived, page, removed),
    placeholderData: (before) => before,
  });
  const away = useSyncExternalStore(reach.subscribe, reach.get);
  const unsent = useQuery({ queryKey: ["unsent", person], queryFn: () => waiting(person) });
  const onSite = useQuery({
    queryKey: ["unsent-site", person],
    queryFn: () => siteWaiting(person),
    refetchInterval: 10_000,
  });
  const putAway = useMutation({
    mutationFn: (job: JobLine) => archiveJob(job.id, !job.archived),
    onSuccess: () => void askAnew(client, ["jobs"]),
  });
  const asFile = useMutation({
    mutationFn: (job: JobLine) => jobFile(job.id),
    onSuccess: ({ name, file }) => save(file, name),
  });
  const add = useMutation({
    mutationFn: addJob,
    onSuccess: (job) => {
      void askAnew(client, ["jobs"]);
      onOpen(job.id, true);
    },
  });
  const take = useMutation({
    mutationFn: async (file: File) => importJob(await readFile(file)),
    onSuccess: (job) => {
      void askAnew(client, ["jobs"]);
      onOpen(job.id);
    },
  });
  const bringBack = useMutation({
    mutationFn: bringJobBack,
    onSuccess: () => void askAnew(client, ["jobs"]),
  });
  const act = useMutation({
    mutationFn: actIn,
    onSuccess: (found) => {
      takeIn(client, found);
    },
  });
  const remove = useMutation({
    mutationFn: removeJob,
    onSuccess: () => {
      setLeaving(null);
      void askAnew(client, ["jobs"]);
    },
  });
  return (
    <main className="mx-auto max-w-3xl px-6 py-8 max-sm:px-3">
      <div className="flex flex-wrap items-baseline justify-between gap-3">
        <h1 className="font-semibold text-2xl">{JOB_LIST.jobs}</h1>
        {firms.length > 1 && (
          <select
            className={`${inputClass} max-w-64`}
            aria-label={JOB_LIST.firmWorking}
            value={person}
            onChange={(event) => act.mutate(Number(event.target.value))}
          >
            {firms.map((f) => (
              <option key={f.member} value={f.member}>
                {f.name}
              </option>
            ))}
          </select>
        )}
      </div>
      {lost && (
        <p role="status" className="mt-2 border-close border-l-4 pl-3">
          {NO_PAGE}
        </p>
      )}
      {designs && <NewJob onStart={(body) => add.mutate(body)} pending={add.isPending} />}
      {!designs && <p className="mt-2 text-faded">{NO_START}</p>}
      {designs && (
        <p className="mt-2 text-faded">
          <label className="word cursor-pointer focus-within:outline-2 focus-within:outline-copper">
            or open one from a file
            <input
              type="file"
              accept=".json,application/json"
              className="sr-only"
              onChange={(event) => {
                const file = event.target.files?.[0];
                event.target.value = "";
                if (file) take.mutate(file);
              }}
            />
          </label>
        </p>
      )}
      {take.error && (
        <p role="alert" className="mt-1 text-short">
          {JOB_LIST.couldNotOpened} {take.error.message}
        </p>
      )}
      {add.error && (
        <p role="alert" className="mt-1 text-short">
          {add.error.message}
        </p>
      )}
      {jobs.isPending && <p className="mt-6 text-faded">{JOB_LIST.openingJobs}</p>}
      {jobs.error && (
        <p role="alert" className="mt-6 text-short">
          {jobs.error.message}{" "}
          <button type="button" className="word" onClick={() => void jobs.refetch()}>
            {JOB_LIST.tryAgain}
          </button>
        </p>
      )}
      {jobs.data && (
        <p className="mt-6 flex flex-wrap items-center gap-4">
          <input
            type="search"
            className={`${inputClass} max-w-xs`}
            aria-label={JOB_LIST.searchJobsName}
            placeholder={JOB_LIST.nameClientPlace}
            maxLength={200}
            value={search}
            onChange={(event) => {
              setSearch(event.target.value);
              setPage(1);
            }}
          />
          <select
            className={`${inputClass} max-w-56`}
            aria-label={JOB_LIST.whichJobs}
            value={which}
            onChange={(event) => {
              setWhich(event.target.value as typeof which);
              setPage(1);
            }}
          >
            <option value="open">current</option>
            <option value="away">archived</option>
            <option value="bin">{JOB_LIST.deleted30Days}</option>
          </select>
        </p>
      )}
      {away && jobs.data && (
        <p role="status" className="mt-3 text-close">
          {JOB_LIST.keptHere}
        </p>
      )}
      {jobs.data?.total === 0 && (
        <p className="mt-6 text-faded">
          {search !== ""
            ? JOB_LIST.noJobMatches
            : archived
              ? JOB_LIST.noArchivedJobs
              : removed
                ? JOB_LIST.noDeletedJobs
                : JOB_LIST.noJobsYet}
        </p>
      )}
      {(putAway.error ?? asFile.error) && (
        <p role="alert" className="mt-2 text-short">
          {(putAway.error ?? asFile.error)?.message}
        </p>
      )}
      <ul className="mt-4" aria-busy={jobs.isFetching}>
        {/* The jobs of the firm one leaves are not to be opened any more. */}
        {(act.isPending ? undefined : jobs.data)?.jobs.map((job) => (
          <li
            key={job.id}
            className="flex flex-wrap items-baseline gap-x-3 border-hair border-t py-2"
            data-job={job.id}
          >
            <div className="min-w-48 flex-1">
              {removed ? (
                <span className="font-semibold text-[1.1rem]">{job.name}</span>
              ) : (
                <Link
                  className="block py-0.5 font-semibold text-[1.1rem] hover:bg-lit"
                  to={pathsOf(job.id).attention}
                  aria-label={job.name}
                >
                  {job.name}
                </Link>
              )}
              <p className="text-faded">{[job.client && `for ${job.client}`, job.place].filter(Boolean).join(", ")}</p>
              <p className="text-faded">
                {removed && job.removed
                  ? `deleted ${dayOf(job.removed)}`
                  : `changed ${dayOf(job.changed)}${job.by ? ` by ${job.by}` : ""}`}
              </p>
            </div>
            <div className="flex items-baseline gap-x-3 max-sm:flex-wrap sm:max-w-[60%]">
              <span className="text-faded sm:text-right" data-stage>
                {stageOf(job)}
              </span>
              <Standing job={job} />
              {removed ? (
                <Button onClick={() => bringBack.mutate(job.id)} aria-label={`Bring back ${job.name}`}>
                  restore
                </Button>
              ) : (
                <JobMenu
                  job={job}
                  designs={designs}
                  onFile={() => asFile.mutate(job)}
                  onLinks={() => setLinking(job)}
                  onArchive={() => putAway.mutate(job)}
                  onDelete={() => setLeaving(job)}
                />
              )}
            </div>
            {job.trouble !== "" && (
              <p className="basis-full text-short">
                {job.trouble} {JOB_LIST.openCorrect}
              </p>
            )}
            {(onSite.data?.get(job.id) ?? 0) > 0 && (
              <p className="basis-full text-close" data-unsent-site>
                {onSite.data?.get(job.id)} {onSite.data?.get(job.id) === 1 ? "entry" : "entries"} from site waiting in
                this browser.
              </p>
            )}
            {(unsent.data?.get(job.id) ?? 0) > 0 && (
              <p className="basis-full text-close">
                {unsent.data?.get(job.id)} unsent{" "}
                {unsent.data?.get(job.id) === 1 ? "change waiting" : "changes waiting"} in this browser: open it to send
                them.
              </p>
            )}
          </li>
        ))}
      </ul>
      {jobs.data && jobs.data.pages > 1 && (
        <p className="mt-3 flex items-baseline gap-3">
          <Button disabled={page <= 1} onClick={() => setPage(jobs.data.page - 1)}>
            before
          </Button>
          <span className="figure">
            page {jobs.data.page} of {jobs.data.pages}, {jobs.data.total} jobs
          </span>
          <Button disabled={jobs.data.page >= jobs.data.pages} onClick={() => setPage(jobs.data.page + 1)}>
            next
          </Button>
        </p>
      )}
      {caution}
      <ClientLinks job={linking} onClose={() => setLinking(null)} />
      <Ask
        open={leaving !== null}
        title={`Delete ${leaving?.name}?`}
        say={JOB_LIST.movesDeletedJobs}
        yes="delete it"
        onYes={() => leaving && remove.mutate(leaving.id)}
        onClose={() => setLeaving(null)}
      >
        {remove.error && <p className="mt-2 text-short">{remove.error.message}</p>}
      </Ask>
    </main>
  );
}

const MOST = 2_000_000;

async function readFile(file: File): Promise<Record<string, never>> {
  if (file.size > MOST) throw new Error(JOB_LIST.fileLargerThan);
  try {
    return JSON.parse(await file.text());
  } catch {
    throw new Error(`${file.name} is not a job file. A job saved here ends in .json.`);
  }
}

function Standing({ job }: { job: JobLine }) {
  if (job.trouble !== "") return <span className="text-short">{JOB_LIST.notWorkedOut}</span>;
  if (job.circuits === 0) return <span className="text-faded">{JOB_LIST.noCircuitYet}</span>;
  const rest = job.circuits - job.short - job.not_known - job.close;
  return (
    <span className="figure flex shrink-0 gap-3">
      {job.short > 0 && (
        <span>
          <Mark verdict="short" /> {job.short}
        </span>
      )}
      {job.not_known > 0 && (
        <span>
          <Mark verdict="not_known" /> {job.not_known}
        </span>
      )}
      {job.close > 0 && (
        <span>
          <Mark verdict="close" /> {job.close}
        </span>
      )}
      <span>
        <Mark verdict="meets" /> {rest}
      </span>
    </span>
  );
}
