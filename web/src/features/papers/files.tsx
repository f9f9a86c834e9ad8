import { useEffect, useRef, useState } from "react";
import type { Searching } from "../../api/client";
import { type PaperForm, paperAddress, paperFile } from "../../api/site";
import { Progress } from "../../parts/use-search";
import { useStore } from "../../sync/job-context";
import { Button } from "../../ui/controls";
import { print } from "./print";
import { FILES } from "./words";

export const FORMS: readonly { form: PaperForm; title: string }[] = [
  { form: "pdf", title: "make the PDF" },
  { form: "xlsx", title: "spreadsheet, XLSX" },
  { form: "csv", title: "CSV" },
  { form: "json", title: "JSON" },
];

interface Asked {
  paper: string;
  subject: string;
  revision: number;
  stage: string;
}

interface Ready {
  form: PaperForm;
  name: string;
  address: string;
  size: number;
  /** The document as a page of this browser, where no server was there to make a PDF. */
  page: string | null;
}

/** Makes the files of a paper one at a time, says how far each is, and hands it over. */
export function Files({ asked, forms }: { asked: Asked; forms: typeof FORMS }) {
  const store = useStore();
  const [making, setMaking] = useState<PaperForm | null>(null);
  const [progress, setProgress] = useState<Searching | null>(null);
  const [ready, setReady] = useState<Ready | null>(null);
  const [why, setWhy] = useState("");
  const going = useRef<AbortController | null>(null);
  useEffect(() => () => going.current?.abort(), []);
  useEffect(() => () => (ready ? URL.revokeObjectURL(ready.address) : undefined), [ready]);
  const make = async (form: PaperForm) => {
    going.current?.abort();
    const mine = new AbortController();
    going.current = mine;
    setMaking(form);
    setProgress(null);
    setReady(null);
    setWhy("");
    try {
      const { name, file } = await paperFile(store.job, { ...asked, form }, { signal: mine.signal, told: setProgress });
      const page = file.type.startsWith("text/html") ? await file.text() : null;
      if (!mine.signal.aborted) setReady({ form, name, address: URL.createObjectURL(file), size: file.size, page });
    } catch (error) {
      if (!mine.signal.aborted) setWhy(error instanceof Error ? error.message : String(error));
    } finally {
      if (!mine.signal.aborted) setMaking(null);
    }
  };
  return (
    <div className="mt-4">
      <p className="flex flex-wrap gap-2">
        {forms.map(({ form, title }) => (
          <Button
            key={form}
            strong={form === "pdf"}
            className="min-h-11"
            disabled={making !== null}
            onClick={() => void make(form)}
          >
            {title}
          </Button>
        ))}
      </p>
      {making && <Progress key={making} say="Making it" progress={progress} />}
      {why && (
        <p role="alert" className="mt-2 text-short">
          {why}
        </p>
      )}
      {ready && (
        <p className="mt-2" role="status">
          Ready:{" "}
          {ready.page !== null && (
            <>
              {FILES.madeHere}{" "}
              <button type="button" className="word" onClick={() => print(ready.page ?? "")}>
                {FILES.print}
              </button>
              ,{" "}
            </>
          )}
          {ready.form === "pdf" && ready.page === null && (
            <>
              <a
                className="word"
                href={paperAddress(store.job, asked.paper, asked.subject, asked.revision, asked.stage)}
                target="_blank"
                rel="noreferrer"
              >
                {FILES.open}
              </a>
              ,{" "}
            </>
          )}
          <a className="word" href={ready.address} download={ready.name}>
            save {ready.name}
          </a>{" "}
          <span className="text-faded">({Math.max(1, Math.round(ready.size / 1024))} kB)</span>
        </p>
      )}
    </div>
  );
}
