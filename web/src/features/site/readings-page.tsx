import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import {
  boardTests,
  type CircuitTests,
  circuitTests,
  type JobTests,
  jobTests,
  photoAddress,
  type SiteTest,
} from "../../api/site";
import { useStageChoice } from "../../parts/stage-choice";
import { type OnSite, Unsent, useSiteLog } from "../../parts/use-site-log";
import { useJob, useStore } from "../../sync/job-context";
import { inputClass, NumberField } from "../../ui/editors";
import { glued } from "../../ui/quantity";
import { remembered } from "../../ui/remembered";
import { clockOf, dayOf } from "../../ui/time";
import { Elsewhere } from "./elsewhere";
import { FileReadings } from "./file-readings";
import { asFile } from "./readings-file";
import { type Kit, TestRow } from "./test-row";
import { liveTests, NOTHING, READINGS } from "./words";

interface Props {
  circuit: string | null;
  onChoose: (circuit: string | null) => void;
}

/** The tests of a circuit in their order, what each reading says beside its prediction, and what they point to together. */
export function ReadingsPage({ circuit, onChoose }: Props) {
  const store = useStore();
  const { state, asOf } = useJob();
  const site = useSiteLog();
  const { stage, choice } = useStageChoice();
  const found = useQuery({
    queryKey: ["site", store.job, "tests", asOf, stage],
    queryFn: () => jobTests(store.job, stage),
    placeholderData: (before) => before,
    enabled: state !== null,
  });
  const atBoard = found.data?.boards.some((b) => b.circuit === circuit) ?? false;
  const one = useQuery({
    queryKey: ["site", store.job, "circuit-tests", circuit, asOf, stage],
    queryFn: () => (atBoard ? boardTests : circuitTests)(store.job, circuit ?? "", stage),
    placeholderData: (before) => (before?.circuit === circuit ? before : undefined),
    enabled: state !== null && circuit !== null && found.data !== undefined,
  });
  if (found.isPending || !site) return <p className="p-8 text-faded">{READINGS.loadingTests}</p>;
  if (found.error) return <p className="p-8 text-short">{found.error.message}</p>;
  return (
    <div className="max-w-5xl px-6 py-5 max-sm:px-3">
      <h1 className="font-semibold text-2xl">{READINGS.testResults}</h1>
      {choice}
      <Unsent site={site} />
      <label className="no-print mt-2 block">
        <span className="block text-faded">{READINGS.circuitBoard}</span>
        <select
          className={`${inputClass} mt-1 min-h-11 max-w-md`}
          value={circuit ?? ""}
          onChange={(event) => onChoose(event.target.value || null)}
        >
          <option value="">{READINGS.allThem}</option>
          {(["boards", "circuits"] as const).map((kind) => (
            <optgroup key={kind} label={kind === "boards" ? "Boards" : "Circuits"}>
              {found.data[kind].map((c) => (
                <option key={c.circuit} value={c.circuit}>
                  {c.number} {c.name}
                </option>
              ))}
            </optgroup>
          ))}
        </select>
      </label>
      {circuit === null ? (
        <All tests={found.data} site={site} onChoose={onChoose} />
      ) : one.isPending ? (
        <p className="mt-4 text-faded">{READINGS.workingOutExpected}</p>
      ) : one.error ? (
        <p className="mt-4 text-short">{one.error.message}</p>
      ) : (
        <One key={circuit} found={one.data} atBoard={atBoard} faults={found.data.faults} site={site} />
      )}
    </div>
  );
}

function All({ tests, site, onChoose }: { tests: JobTests; site: OnSite; onChoose: (circuit: string) => void }) {
  const store = useStore();
  return (
    <>
      {tests.circuits.length === 0 && <p className="mt-4">{NOTHING.tests}</p>}
      <ul className="mt-4">
        {[...tests.boards, ...tests.circuits].map((c) => (
          <li key={c.circuit} className="border-hair border-t">
            <button
              type="button"
              className="grid min-h-11 w-full grid-cols-[3.5rem_1fr_auto] items-center gap-x-3 py-1 text-left hover:bg-lit"
              onClick={() => onChoose(c.circuit)}
            >
              <span className="figure">{c.number}</span>
              <strong>{c.name}</strong>
              <span>
                {c.tests - c.left} of {c.tests} done
                {c.off > 0 && <span className="text-short">, {c.off} to query</span>}
              </span>
            </button>
          </li>
        ))}
      </ul>
      {tests.gone.length > 0 && (
        <section className="mt-6" aria-label={READINGS.gone} data-gone>
          <h2 className="font-semibold text-xl">{READINGS.gone}</h2>
          <p className="text-faded">{READINGS.goneKept}</p>
          <ul className="mt-1">
            {tests.gone.map((g) => (
              <li key={g.id} className="border-hair border-t py-1">
                <strong>{g.about}</strong>: {glued(g.what)}
                <span className="text-faded">
                  , {g.by}, {dayOf(g.at)} {clockOf(g.at)}
                </span>{" "}
                {g.photo && (
                  <a className="word" href={photoAddress(store.job, g.photo)} target="_blank" rel="noreferrer">
                    photo
                  </a>
                )}
              </li>
            ))}
          </ul>
        </section>
      )}
      <FileReadings job={store.job} tests={tests} site={site} />
    </>
  );
}

interface OneProps {
  found: CircuitTests;
  /** They are those of a board itself. */
  atBoard: boolean;
  faults: string[];
  site: OnSite;
}

function One({ found, atBoard, faults, site }: OneProps) {
  const [kit, setKit] = useState<Kit>({ ...lastInstrument(), temperature: 20, fault: "none", seed: 1 });
  const [live, setLive] = useState(false);
  const change = (part: Partial<Kit>) => setKit({ ...kit, ...part });
  const dead = found.tests.filter((t) => !t.live);
  const on = found.tests.filter((t) => t.live);
  return (
    <>
      <h2 className="mt-4 font-semibold text-xl">
        <span className="figure mr-2 border border-ink px-1">{found.number}</span>
        {found.name}
      </h2>
      {found.why && <p className="text-short">{glued(found.why)}</p>}
      {found.told && (
        <section
          aria-label={READINGS.whatTheyPoint}
          className={`mt-2 border-l-4 pl-3 ${found.causes[0]?.id === "none" && found.off === 0 ? "border-meets" : "border-short"}`}
        >
          <p role="status" className="text-lg">
            {glued(found.told)}
          </p>
          {found.causes.length > 1 && (
            <p className="text-faded">
              {READINGS.likelihoodCausesTried}{" "}
              {found.causes
                .filter((c) => c.share > 0.005)
                .map((c) => `${c.told.replace(/^fits /, "")} ${Math.round(100 * c.share)} %`)
                .join("; ") || "this alone"}
              .
            </p>
          )}
        </section>
      )}
      {found.back && <p className="mt-2">{glued(found.back)}</p>}
      {found.heat && <p className="mt-2">{glued(found.heat)}.</p>}
      <div className="no-print mt-3 grid max-w-3xl gap-3 sm:grid-cols-3">
        {INSTRUMENT.map(([name, label]) => (
          <label key={name}>
            <span className="block text-faded">{label}</span>
            <input
              className={`${inputClass} mt-1`}
              maxLength={200}
              value={kit[name]}
              onChange={(event) => {
                change({ [name]: event.target.value });
                keep(name, event.target.value);
              }}
            />
          </label>
        ))}
        <NumberField
          label={READINGS.conductors}
          value={kit.temperature}
          limits={{ lo: -10, hi: 60, unit: "°C" }}
          onSave={(value) => value !== null && change({ temperature: value })}
        />
        <label hidden={atBoard}>
          <span className="block text-faded">{READINGS.practiceInstrumentCircuit}</span>
          <select
            className={`${inputClass} mt-1`}
            value={kit.fault}
            onChange={(event) => change({ fault: event.target.value, seed: kit.seed + 1 })}
          >
            {faults.map((f) => (
              <option key={f} value={f}>
                {f === "none" ? "the circuit as designed" : f.replaceAll("_", " ")}
              </option>
            ))}
          </select>
        </label>
      </div>
      <section className="mt-4" aria-label={READINGS.deadTests}>
        <h3 className="font-semibold text-lg">{READINGS.deadTests}</h3>
        <ul>
          {dead.map((test) => (
            <TestRow
              key={test.id}
              circuit={found.circuit}
              atBoard={atBoard}
              test={test}
              kit={kit}
              site={site}
              first={first(dead, test)}
            />
          ))}
        </ul>
      </section>
      <section className="mt-5" aria-label={READINGS.liveTests}>
        <h3 className="font-semibold text-lg">{READINGS.liveTests}</h3>
        <p className="mt-1 border-short border-l-4 pl-3">{found.care}</p>
        <label className="no-print mt-2 inline-flex min-h-11 items-center gap-2">
          <input type="checkbox" className="h-5 w-5" checked={live} onChange={(e) => setLive(e.target.checked)} />
          Dead tests are complete and I have read this: the supply may be energised
        </label>
        <p className={`no-print ${live ? "text-short" : "text-faded"}`}>{liveTests(deadLeft(dead, site), live)}</p>
        <ul>
          {on.map((test) => (
            <TestRow
              key={test.id}
              circuit={found.circuit}
              atBoard={atBoard}
              test={test}
              kit={kit}
              site={site}
              closed={!live}
              first={first(on, test)}
            />
          ))}
        </ul>
      </section>
      {!atBoard && <Elsewhere found={found} kit={kit} site={site} live={live} />}
      <p className="no-print mt-4">
        <a
          className="word"
          download={`readings-${found.number}.csv`}
          href={`data:text/csv;charset=utf-8,${encodeURIComponent(asFile(found))}`}
        >
          {READINGS.saveReadingsFile}
        </a>
      </p>
    </>
  );
}

/** How many dead tests have no result, sent or waiting here. */
const deadLeft = (dead: readonly SiteTest[], site: OnSite) =>
  dead.filter(
    (test) =>
      test.found === "not_read" &&
      !site.waiting.some((e) => e.data.quantity === test.quantity && e.data.point === test.point),
  ).length;
/** Whether a test is the first with what is to be seen to: said once, not at every outlet. */
const first = (tests: readonly SiteTest[], test: SiteTest) =>
  tests.find((t) => t.care === test.care && t.why === test.why) === test;
/** What is said of the instrument with each reading; this browser remembers it. */
const INSTRUMENT = [
  ["instrument", READINGS.testInstrument],
  ["serial", READINGS.serial],
  ["checked", READINGS.lastCheck],
] as const;
type OfInstrument = (typeof INSTRUMENT)[number][0];
const placeOf = (name: OfInstrument) =>
  name === "instrument" ? "mellow-span/instrument" : `mellow-span/instrument/${name}`;
function lastInstrument(): Record<OfInstrument, string> {
  const found = { instrument: "", serial: "", checked: "" };
  for (const [name] of INSTRUMENT) found[name] = remembered.get(placeOf(name)) ?? "";
  return found;
}
const keep = (name: OfInstrument, value: string) => remembered.set(placeOf(name), value);
