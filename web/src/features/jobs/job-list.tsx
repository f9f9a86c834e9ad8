import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { addJob, exportAddress, importJob, listJobs, removeJob } from "../../api/client";
import type { JobLine } from "../../api/types";
import { Button, Sheet } from "../../ui/controls";
import { inputClass } from "../../ui/editors";
import { Mark } from "../../ui/verdict";

/** The jobs of the firm, each with how it stands. */
export function JobList({ onOpen, caution }: { onOpen: (id: string) => void; caution: React.ReactNode }) {
  const client = useQueryClient();
  const jobs = useQuery({ queryKey: ["jobs"], queryFn: listJobs });
  const [name, setName] = useState("");
  const [leaving, setLeaving] = useState<JobLine | null>(null);
  const add = useMutation({
    mutationFn: addJob,
    onSuccess: (job) => {
      void client.invalidateQueries({ queryKey: ["jobs"] });
      onOpen(job.id);
    },
  });
  const take = useMutation({
    mutationFn: async (file: File) => importJob(await readFile(file)),
    onSuccess: (job) => {
      void client.invalidateQueries({ queryKey: ["jobs"] });
      onOpen(job.id);
    },
  });
  const remove = useMutation({
    mutationFn: removeJob,
    onSuccess: () => {
      setLeaving(null);
      void client.invalidateQueries({ queryKey: ["jobs"] });
    },
  });
  return (
    <main className="mx-auto max-w-3xl px-6 py-8 max-sm:px-3">
      <h1 className="font-semibold text-2xl">Jobs</h1>
      <form
        className="mt-4 flex gap-2"
        onSubmit={(event) => {
          event.preventDefault();
          if (name.trim()) add.mutate(name.trim());
        }}
      >
        <input
          className={inputClass}
          aria-label="Name of the new job"
          placeholder="name of a new job"
          maxLength={200}
          value={name}
          onChange={(event) => setName(event.target.value)}
        />
        <Button type="submit" strong disabled={!name.trim() || add.isPending} className="whitespace-nowrap">
          start a job
        </Button>
      </form>
      <p className="mt-2 text-faded">
        <label className="word cursor-pointer focus-within:outline-2 focus-within:outline-copper">
          or take one in from a file
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
      {take.error && (
        <p role="alert" className="mt-1 text-short">
          Not taken in: {take.error.message}
        </p>
      )}
      {add.error && (
        <p role="alert" className="mt-1 text-short">
          {add.error.message}
        </p>
      )}
      {jobs.isPending && <p className="mt-6 text-faded">Opening the jobs …</p>}
      {jobs.error && (
        <p role="alert" className="mt-6 text-short">
          {jobs.error.message}{" "}
          <button type="button" className="word" onClick={() => void jobs.refetch()}>
            try again
          </button>
        </p>
      )}
      {jobs.data?.length === 0 && (
        <p className="mt-6 text-faded">No job yet. Name one above: it starts with an empty intake and one board.</p>
      )}
      <ul className="mt-6">
        {jobs.data?.map((job) => (
          <li key={job.id} className="flex items-baseline gap-3 border-hair border-t py-2">
            <button
              type="button"
              className="flex-1 py-1 text-left font-semibold text-[1.1rem] hover:bg-lit"
              onClick={() => onOpen(job.id)}
            >
              {job.name}
            </button>
            <Standing job={job} />
            <a
              className="word text-faded"
              href={exportAddress(job.id)}
              download
              aria-label={`save as file: ${job.name}`}
            >
              save as file
            </a>
            <button
              type="button"
              className="word text-faded"
              aria-label={`Delete ${job.name}`}
              onClick={() => setLeaving(job)}
            >
              delete
            </button>
          </li>
        ))}
      </ul>
      {caution}
      <Sheet
        open={leaving !== null}
        onOpenChange={(open) => !open && setLeaving(null)}
        title={`Delete ${leaving?.name}?`}
        say="The job goes with its circuits and its history. This cannot be taken back."
      >
        <div className="mt-4 flex gap-2">
          <Button onClick={() => setLeaving(null)}>keep it</Button>
          <Button strong onClick={() => leaving && remove.mutate(leaving.id)}>
            delete it for good
          </Button>
        </div>
        {remove.error && <p className="mt-2 text-short">{remove.error.message}</p>}
      </Sheet>
    </main>
  );
}

const MOST = 2_000_000;

async function readFile(file: File): Promise<Record<string, never>> {
  if (file.size > MOST) throw new Error("the file is larger than 2 MB.");
  try {
    return JSON.parse(await file.text());
  } catch {
    throw new Error(`${file.name} is not JSON. A job saved here ends in .json.`);
  }
}

function Standing({ job }: { job: JobLine }) {
  if (job.circuits === 0) return <span className="text-faded">no circuit yet</span>;
  const rest = job.circuits - job.short - job.not_known - job.close;
  return (
    <span className="figure flex gap-3">
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
