import { useState } from "react";
import { photoAddress, readInstrument, type SiteTest } from "../../api/site";
import type { OnSite } from "../../parts/use-site-log";
import { useStore } from "../../sync/job-context";
import { Button } from "../../ui/controls";
import { inputClass } from "../../ui/editors";
import { FileButton } from "../../ui/file-button";
import { exact, glued } from "../../ui/quantity";
import { clockOf, dayOf } from "../../ui/time";
import { small } from "./photo";
import { readFigure, readingText } from "./reading-text";
import { TEST_ROW } from "./words";

export interface Kit {
  instrument: string;
  serial: string;
  checked: string;
  temperature: number;
  fault: string;
  seed: number;
}

/** Live tests that must not trip the RCD they are done behind. */
const TRIPS: readonly string[] = ["zs", "ipf", "amps"];
const YES_NO = ["polarity", "button", "rotation", "functional", "tight"];
const TONES: Record<SiteTest["found"], string> = {
  within: "text-meets",
  meets: "text-meets",
  above: "text-short",
  below: "text-short",
  short: "text-short",
  not_known: "text-close",
  not_read: "text-faded",
};
const WORDS: Record<SiteTest["found"], string> = {
  within: "as predicted",
  meets: "meets",
  above: "higher than predicted",
  below: "lower than predicted",
  short: "outside limit",
  not_known: "not known",
  not_read: "not tested",
};

interface Props {
  circuit: string;
  /** It is a test of a board itself, not of a circuit. */
  atBoard?: boolean;
  test: SiteTest;
  kit: Kit;
  site: OnSite;
  /** The supply may not be put on yet. */
  closed?: boolean;
  /** What it is for and what to see to stand here. */
  first: boolean;
}

interface Read {
  value?: number;
  over?: boolean;
  tripped?: boolean;
  ok?: boolean;
  photo?: string;
}

/** One test: what it should show, what it showed, and where a reading is written down. */
export function TestRow({ circuit, atBoard = false, test, kit, site, closed = false, first }: Props) {
  const store = useStore();
  const [text, setText] = useState("");
  const [why, setWhy] = useState("");
  const [busy, setBusy] = useState(false);
  const yesNo = YES_NO.includes(test.quantity);
  const kind = atBoard ? "board_reading" : "reading";
  const waiting = site.waiting.filter(
    (e) => e.kind === kind && e.subject === circuit && e.data.quantity === test.quantity && e.data.point === test.point,
  );
  // Without a server this device judges them, and they stand among the others.
  const unjudged = waiting.filter((e) => !test.rows.some((row) => row.id === e.id));
  const write = (read: Read, by = kit.instrument, method = "") => {
    setWhy("");
    setText("");
    site.write({
      kind,
      subject: circuit,
      data: {
        quantity: test.quantity,
        value: read.value ?? null,
        over: read.over ?? false,
        tripped: read.tripped ?? false,
        ok: read.ok ?? null,
        point: test.point,
        at: test.at,
        temperature: kit.temperature,
        volts: test.quantity.startsWith("ir_") ? test.volts : null,
        instrument: by,
        ...(by === kit.instrument ? { serial: kit.serial, checked: kit.checked } : {}),
        method,
        photo: read.photo ?? "",
      },
    });
  };
  const typed = () => {
    const read = readFigure(text);
    if (read === null) return setWhy(`Enter a figure from 0 to 1 000 000 ${test.unit}; >200 for more than the range.`);
    write(read);
  };
  const ask = async () => {
    setBusy(true);
    setWhy("");
    try {
      const shown = await readInstrument(store.job, circuit, test.quantity, test.at, kit.fault, kit.seed);
      write(
        {
          ...(shown.value !== null ? { value: shown.value } : {}),
          over: shown.over,
          tripped: shown.tripped,
          ...(shown.ok !== null ? { ok: shown.ok } : {}),
        },
        "practice instrument",
        "read from the instrument",
      );
    } catch (error) {
      setWhy(error instanceof Error ? error.message : String(error));
    } finally {
      setBusy(false);
    }
  };
  return (
    <li
      data-test={test.quantity}
      data-point={test.point}
      className="grid grid-cols-[1fr_minmax(0,25rem)] gap-x-4 border-hair border-t py-2 max-sm:grid-cols-1"
    >
      <div className="min-w-0">
        <p>
          <strong>{test.title}</strong>
          {test.point && <span className="text-faded"> at {test.point}</span>}{" "}
          <span className={TONES[test.found]}>{WORDS[test.found]}</span>
        </p>
        <p>{glued(test.text)}</p>
        {first && (
          <p className="text-faded">
            {test.why}
            {test.care && `. First: ${test.care}`}
          </p>
        )}
        {unjudged.map((e) => (
          <p key={e.id} className="text-close">
            {readingText(e.data, test.unit)}: not sent yet; judged once it is
          </p>
        ))}
        <Rows test={test} job={store.job} unsent={waiting} />
      </div>
      {!closed && (
        <form
          className="no-print"
          aria-label={`${test.title}${test.point ? ` at ${test.point}` : ""}`}
          onSubmit={(event) => {
            event.preventDefault();
            if (!yesNo) typed();
          }}
        >
          <div className="flex flex-wrap items-center justify-end gap-2">
            {yesNo ? (
              <>
                <Button type="button" className="min-h-11 min-w-16" onClick={() => write({ ok: true })}>
                  yes
                </Button>
                <Button type="button" className="min-h-11 min-w-16" onClick={() => write({ ok: false })}>
                  no
                </Button>
              </>
            ) : (
              <>
                <input
                  aria-label={`${test.title} in ${test.unit}`}
                  className={`${inputClass} figure min-h-11 w-24!`}
                  inputMode="decimal"
                  autoComplete="off"
                  value={text}
                  aria-invalid={why !== ""}
                  onChange={(event) => setText(event.target.value)}
                  onKeyDown={(event) => event.key === "Escape" && setText("")}
                />
                <span>{test.unit}</span>
                <Button type="submit" className="min-h-11">
                  save
                </Button>
                <Button
                  type="button"
                  className="min-h-11"
                  title={TEST_ROW.overInstrumentsRange}
                  onClick={() => write({ over: true })}
                >
                  {test.quantity.startsWith("rcd_") ? "no trip" : "over"}
                </Button>
                {TRIPS.includes(test.quantity) && (
                  <Button
                    type="button"
                    className="min-h-11"
                    title={TEST_ROW.trippedDuring}
                    onClick={() => write({ tripped: true })}
                  >
                    {TEST_ROW.tripped}
                  </Button>
                )}
              </>
            )}
            {test.quantity === "tight" ? (
              <Photo circuit={circuit} site={site} onTaken={(photo) => write({ ok: true, photo })} onWhy={setWhy} />
            ) : (
              !atBoard && (
                <Button type="button" className="min-h-11" disabled={busy} onClick={ask}>
                  {busy ? "reading …" : "instrument"}
                </Button>
              )
            )}
          </div>
          {why && (
            <p role="alert" className="mt-1 text-right text-short">
              {why}
            </p>
          )}
        </form>
      )}
    </li>
  );
}

/** Every reading that was taken, none written over. */
function Rows({ test, job, unsent }: { test: SiteTest; job: string; unsent: OnSite["waiting"] }) {
  if (test.rows.length === 0) return null;
  return (
    <ul>
      {test.rows.map(({ id, reading: r, by, at, off, clock }) => (
        <li key={id} className={off ? "text-short" : "text-faded"}>
          {readingText(r, test.unit)}
          {r.volts !== null && ` at ${exact(r.volts)} V`}, {by}, {dayOf(at)} {clockOf(at)}
          {clock && ` (the clock on site said ${dayOf(clock)} ${clockOf(clock)})`}
          {r.instrument && `, ${r.instrument}`}
          {r.temperature !== 20 && `, ${exact(r.temperature)} °C`}
          {unsent.some((e) => e.id === id) && <span className="text-close">: {TEST_ROW.judgedHere}</span>}
          {r.photo && (
            <>
              ,{" "}
              <a className="word" href={photoAddress(job, r.photo)} target="_blank" rel="noreferrer">
                photo
              </a>
            </>
          )}
        </li>
      ))}
    </ul>
  );
}

interface PhotoProps {
  circuit: string;
  site: OnSite;
  onTaken: (photo: string) => void;
  onWhy: (why: string) => void;
}

function Photo({ circuit, site, onTaken, onWhy }: PhotoProps) {
  return (
    <FileButton
      name={TEST_ROW.photoTerminals}
      accept="image/*"
      camera
      onFile={async (file) => {
        const image = await small(file);
        if (image === null) return onWhy(TEST_ROW.pictureCannotRead);
        onTaken(site.write({ kind: "photo", subject: circuit, data: { name: "terminals", image } }));
      }}
    >
      {TEST_ROW.yesPhoto}
    </FileButton>
  );
}
