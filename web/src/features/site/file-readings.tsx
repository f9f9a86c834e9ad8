import { useState } from "react";
import { Away } from "../../api/client";
import { type FileLook, type FileRow, type JobTests, readInstrumentFile } from "../../api/site";
import type { OnSite } from "../../parts/use-site-log";
import type { NewEntry } from "../../sync/site/state";
import { base64 } from "../../ui/base64";
import { Button } from "../../ui/controls";
import { FileButton } from "../../ui/file-button";
import { identityOf, readFile } from "./readings-file";
import { FILE, READINGS } from "./words";

type Decimal = "" | "point" | "comma";

/** A file of readings: looked at first, line by line with what each was read as, then taken in whole. */
export function FileReadings({ job, tests, site }: { job: string; tests: JobTests; site: OnSite }) {
  const [look, setLook] = useState<FileLook | null>(null);
  const [content, setContent] = useState("");
  const [wrong, setWrong] = useState<string[]>([]);
  const [said, setSaid] = useState("");
  const write = async (entries: readonly NewEntry[]) => {
    for (const entry of entries) site.write({ ...entry, id: await identityOf(job, entry) });
    setLook(null);
    setSaid(FILE.saved(entries.length));
  };
  const read = async (bytes: string, decimal: Decimal, file?: File) => {
    setWrong([]);
    setSaid("");
    try {
      setLook(await readInstrumentFile(job, bytes, decimal));
      setContent(bytes);
    } catch (error) {
      setLook(null);
      if (!(error instanceof Away) || !file) return setWrong([error instanceof Error ? error.message : FILE.unread]);
      // Without a signal a plain file is still read, as far as that goes.
      const plain = readFile(await file.text(), tests.circuits);
      setWrong(plain.wrong);
      if (plain.wrong.length === 0) await write(plain.entries);
    }
  };
  return (
    <section className="no-print mt-6 max-w-4xl" aria-label={READINGS.readingsFile}>
      <h2 className="font-semibold text-xl">{READINGS.file}</h2>
      <p className="text-faded">{READINGS.csvColumnsCircuit}</p>
      <p className="mt-2">
        <FileButton
          name={READINGS.fileReadings}
          accept=".csv,.txt,text/csv,text/plain"
          onFile={async (file) => read(base64(new Uint8Array(await file.arrayBuffer())), "", file)}
        >
          {READINGS.loadFile}
        </FileButton>
      </p>
      {said && <p role="status">{said}</p>}
      {wrong.length > 0 && (
        <div role="alert" className="text-short">
          <p>{READINGS.nothingLoaded}</p>
          <ul>
            {wrong.slice(0, 12).map((text) => (
              <li key={text}>{text}</li>
            ))}
          </ul>
        </div>
      )}
      {look && (
        <Preview
          look={look}
          onDecimal={(decimal) => read(content, decimal)}
          onTake={(entries) => void write(entries)}
          onLeave={() => setLook(null)}
        />
      )}
    </section>
  );
}

interface PreviewProps {
  look: FileLook;
  onDecimal: (decimal: Decimal) => void;
  onTake: (entries: NewEntry[]) => void;
  onLeave: () => void;
}

function Preview({ look, onDecimal, onTake, onLeave }: PreviewProps) {
  const asked = look.rows.find((r) => r.asks.length === 2);
  const bad = look.rows.filter((r) => r.wrong !== "");
  const good = look.rows.flatMap((r) => {
    // A time without a zone is of the clock here.
    const at = r.at ? { at: new Date(r.at).toISOString() } : {};
    return r.entry ? [{ ...(r.entry as unknown as NewEntry), ...at }] : [];
  });
  return (
    <div className="mt-3 border-hair border-l-2 pl-4" data-preview>
      <p>{FILE.found(look.encoding, look.before, look.rows.length)}</p>
      {look.columns.some(([, as]) => !as) && (
        <p className="text-close">
          {FILE.unusedColumns} {look.columns.flatMap(([head, as]) => (as || !head ? [] : [head])).join(", ")}.
        </p>
      )}
      {asked && (
        <p role="alert" className="mt-2 flex flex-wrap items-center gap-2">
          <strong>{FILE.means(asked.cell)}</strong>
          <Button onClick={() => onDecimal("point")}>{asked.asks[0]}</Button>
          <Button onClick={() => onDecimal("comma")}>{asked.asks[1]}</Button>
        </p>
      )}
      <div className="mt-2 max-h-96 overflow-auto">
        <table className="w-full border-collapse">
          <thead>
            <tr className="border-hair border-b text-left text-faded">
              {FILE.heads.map((head) => (
                <th key={head} scope="col" className="pr-3 font-normal">
                  {head}
                </th>
              ))}
            </tr>
          </thead>
          <tbody className="align-top">
            {look.rows.map((row, k) => (
              // biome-ignore lint/suspicious/noArrayIndexKey: a line may hold several readings, and none moves
              <Line key={k} row={row} />
            ))}
          </tbody>
        </table>
      </div>
      {bad.length > 0 && <p className="mt-2 text-short">{FILE.bad(bad.length)}</p>}
      <p className="mt-2 flex flex-wrap gap-2">
        <Button
          strong
          disabled={asked !== undefined || bad.length > 0 || good.length === 0}
          onClick={() => onTake(good)}
        >
          {FILE.take(good.length)}
        </Button>
        <Button onClick={onLeave}>{FILE.leave}</Button>
      </p>
    </div>
  );
}

function Line({ row }: { row: FileRow }) {
  return (
    <tr className="border-hair border-b" data-line={row.line}>
      <td className="figure pr-3">{row.line}</td>
      <th scope="row" className="pr-3 text-left font-normal">
        {row.circuit}
      </th>
      <td className="pr-3">{row.test}</td>
      <td className="figure pr-3 text-faded">{row.cell}</td>
      <td className="figure">
        {row.wrong ? (
          <span className="font-sans text-short">{FILE.allowed(row.wrong)}</span>
        ) : row.asks.length === 2 ? (
          <span className="text-close">{row.asks.join(" or ")}</span>
        ) : (
          row.said
        )}
      </td>
    </tr>
  );
}
