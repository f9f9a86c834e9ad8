import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { type IsolationDone, type IsolationOut, type IsolationRecord, isolationPlan, isolations } from "../../api/site";
import { useStageChoice } from "../../parts/stage-choice";
import { type OnSite, Unsent, useSiteLog } from "../../parts/use-site-log";
import { useJob, useStore } from "../../sync/job-context";
import { useTyped } from "../../sync/typed";
import { Button } from "../../ui/controls";
import { inputClass } from "../../ui/editors";
import { glued } from "../../ui/quantity";
import { clockOf, dayOf } from "../../ui/time";
import { laidOver, NOT_CLEAR } from "./isolation-record";
import { ISOLATION, ISOLATION_KINDS, ISOLATION_STATES, NOTHING } from "./words";

interface Props {
  kind: string;
  id: string;
  onChoose: (kind: string, id: string) => void;
}

/** What makes a place dead, and the record of doing it: one step after the other, none left out in silence. */
export function IsolationPage({ kind, id, onChoose }: Props) {
  const store = useStore();
  const { state, asOf } = useJob();
  const site = useSiteLog();
  const { stage, name: at, choice, lacking } = useStageChoice(true);
  const found = useQuery({
    queryKey: ["site", store.job, "isolation", asOf, stage],
    queryFn: () => isolations(store.job, stage),
    placeholderData: (before) => before,
    enabled: state !== null,
  });
  if (found.isPending || !site) return <p className="p-8 text-faded">{ISOLATION.loadingRecords}</p>;
  if (found.error) return <p className="p-8 text-short">{found.error.message}</p>;
  const records = laidOver(found.data.records, site.waiting, site.name);
  const kinds = [...new Set(found.data.targets.map((t) => t.kind))];
  const open = records.find((r) => r.kind === kind && r.place === id && !["released", "given_up"].includes(r.state));
  return (
    <div className="max-w-3xl px-6 py-5 max-sm:px-3">
      <h1 className="font-semibold text-2xl">{ISOLATION.safeIsolation}</h1>
      <p className="mt-1 border-short border-l-4 pl-3">{ISOLATION.competentPersonList}</p>
      <Unsent site={site} />
      {choice}
      <label className="no-print mt-4 block">
        <span className="block text-faded">{ISOLATION.whatMadeDead}</span>
        <select
          className={`${inputClass} mt-1 min-h-11 max-w-md`}
          value={kind ? `${kind}/${id}` : ""}
          onChange={(event) => {
            const [k = "", ...rest] = event.target.value.split("/");
            onChoose(k, rest.join("/"));
          }}
        >
          <option value="">{ISOLATION.chooseBoardCircuit}</option>
          {kinds.map((k) => (
            <optgroup key={k} label={ISOLATION_KINDS[k]}>
              {found.data.targets
                .filter((t) => t.kind === k)
                .map((t) => (
                  <option key={t.id} value={`${k}/${t.id}`}>
                    {t.title}
                  </option>
                ))}
            </optgroup>
          ))}
        </select>
      </label>
      {!kind && records.length === 0 && <p className="mt-3">{NOTHING.place}</p>}
      {kind &&
        (open ? (
          <Running record={open} site={site} />
        ) : lacking ? (
          <p className="mt-4">{ISOLATION.stageFirst}</p>
        ) : (
          <Plan kind={kind} id={id} stage={stage} at={at} site={site} />
        ))}
      {records.length > 0 && (
        <section className="no-print mt-8" aria-label={ISOLATION.records}>
          <h2 className="font-semibold text-xl">{ISOLATION.records}</h2>
          <ul className="mt-1">
            {records.map((record) => (
              <li key={record.id} className="border-hair border-t py-2">
                {["open", "dead", "live"].includes(record.state) ? (
                  <button type="button" className="word" onClick={() => onChoose(record.kind, record.place)}>
                    {record.title}
                  </button>
                ) : (
                  <details>
                    <summary className="cursor-pointer">
                      <strong>{record.title}</strong>: {ISOLATION_STATES[record.state]}
                      {record.why && `, ${record.why}`}
                    </summary>
                    <Told steps={[...record.steps, ...record.release]} />
                  </details>
                )}{" "}
                <span className="text-faded">
                  {["open", "dead", "live"].includes(record.state) && (
                    <strong>{ISOLATION_STATES[record.state]}, </strong>
                  )}
                  started by {record.by}, {dayOf(record.at)} {clockOf(record.at)}
                </span>
              </li>
            ))}
          </ul>
        </section>
      )}
    </div>
  );
}

function Plan({ kind, id, stage, at, site }: { kind: string; id: string; stage: string; at: string; site: OnSite }) {
  const store = useStore();
  const { asOf } = useJob();
  const found = useQuery({
    queryKey: ["site", store.job, "isolation-plan", asOf, kind, id, stage],
    queryFn: () => isolationPlan(store.job, kind, id, stage),
  });
  if (found.isPending) return <p className="mt-4 text-faded">{ISOLATION.findingEveryPoint}</p>;
  if (found.error) return <p className="mt-4 text-short">{found.error.message}</p>;
  const { plan } = found.data;
  return (
    <section className="mt-4" aria-label={`To make ${plan.title} dead`}>
      <h2 className="font-semibold text-xl">
        To make {plan.title} dead{at && `, at stage ${at}`}
      </h2>
      {plan.points.length === 0 && <p className="mt-1 text-short">{ISOLATION.noCircuitJob}</p>}
      <ol className="mt-1">
        {plan.points.map((point) => (
          <li key={point.key} className="border-hair border-t py-2">
            <strong>{point.where}</strong>: {glued(point.what)}. <span className="text-faded">{point.how}</span>
          </li>
        ))}
      </ol>
      {plan.live.length > 0 && (
        <>
          <h3 className="mt-3 font-semibold text-short">{ISOLATION.staysLiveMay}</h3>
          <ul className="list-disc pl-5">
            {plan.live.map((text) => (
              <li key={text}>{text}</li>
            ))}
          </ul>
        </>
      )}
      <h3 className="mt-3 font-semibold">{ISOLATION.goesDead}</h3>
      <p>{plan.dead.join("; ") || "nothing else in this job"}</p>
      <ul className="mt-3 list-disc pl-5 text-faded">
        {plan.cautions.map((text) => (
          <li key={text}>{text}</li>
        ))}
      </ul>
      {plan.points.length > 0 && (
        <p className="no-print mt-4">
          <Button strong onClick={() => begin(found.data, site)}>
            {ISOLATION.startRecord}
          </Button>
        </p>
      )}
    </section>
  );
}

function begin({ plan, steps, release }: IsolationOut, site: OnSite) {
  site.write({
    kind: "isolation",
    data: {
      record: crypto.randomUUID(),
      step: "begin",
      title: plan.title,
      kind: plan.kind,
      id: plan.id,
      steps,
      release,
    },
  });
}

function Running({ record, site }: { record: IsolationRecord; site: OnSite }) {
  const [why, setWhy] = useState("");
  const write = (data: Record<string, unknown>) =>
    site.write({ kind: "isolation", data: { record: record.id, ...data } });
  const all = [...record.steps, ...record.release];
  const next = all.find((d) => d.step.key === record.next);
  const done = record.steps.filter((d) => d.by).length;
  return (
    <section className="mt-4" aria-label={`Isolation of ${record.title}`}>
      <h2 className="font-semibold text-xl">{record.title}</h2>
      {record.state === "dead" ? (
        <p role="status" className="mt-2 border-4 border-meets p-3 text-xl">
          Proved dead at {clockOf(record.proved)}. Work only while the locks are on; prove dead again after any break.
        </p>
      ) : record.state === "live" ? (
        <p role="alert" className="mt-2 border-4 border-short p-3 text-xl">
          {record.why || ISOLATION.notDeadStop} {record.why && ISOLATION.sourceStop}
        </p>
      ) : (
        <p role="status" className="mt-2 border-4 border-close p-3 text-xl">
          {ISOLATION.notProvedDead} {done} of {record.steps.length} steps.
        </p>
      )}
      {next && (
        <Next
          key={next.step.key}
          record={record.id}
          done={next}
          onDone={(data) => write({ step: next.step.key, ...data })}
        />
      )}
      <Told steps={all.filter((d) => d.by)} />
      <ol className="mt-2 text-faded">
        {all
          .filter((d) => !d.by && d !== next)
          .map((d) => (
            <li key={d.step.key} className="border-hair border-t py-1">
              {glued(d.step.text)}
            </li>
          ))}
      </ol>
      <Tags record={record} />
      <div className="no-print mt-4 max-w-md border-hair border-t pt-3">
        <label className="block text-faded" htmlFor="why-given-up">
          {ISOLATION.abandonRecordReason}
        </label>
        <input
          id="why-given-up"
          className={`${inputClass} mt-1`}
          maxLength={200}
          value={why}
          onChange={(event) => setWhy(event.target.value)}
        />
        <Button className="mt-2" disabled={!why.trim()} onClick={() => write({ step: "given_up", value: why.trim() })}>
          {ISOLATION.abandon}
        </Button>
      </div>
    </section>
  );
}

interface NextProps {
  record: string;
  done: IsolationDone;
  onDone: (data: Record<string, string>) => void;
}

/** The step that is to be done now, with its words and a target for a thumb. */
function Next({ record, done, onDone: take }: NextProps) {
  const { step } = done;
  const [text, setText] = useTyped(`isolation/${record}/${step.key}`);
  const [local, setLocal] = useState(false);
  const onDone = (data: Record<string, string>) => {
    setText("");
    take(data);
  };
  const big = "min-h-14 flex-1 rounded-sm border border-ink px-4 text-lg hover:bg-lit disabled:opacity-50";
  return (
    <form
      className="no-print mt-3 border-ink border-y-2 py-3"
      aria-label={ISOLATION.nextStep}
      onSubmit={(event) => {
        event.preventDefault();
        if (step.needs === "words") onDone(local ? { local: text.trim() } : { value: text.trim() });
        if (step.needs === "nothing") onDone({});
      }}
    >
      <p className="text-xl">{glued(step.text)}</p>
      {(step.needs === "words" || step.needs === "clear") && (
        <label className="mt-2 block">
          <span className="block text-faded">
            {local ? "why a local isolator is used, and where it is" : step.asks}
            {step.needs === "clear" && `; ${ISOLATION.howYouKnow}`}
          </span>
          <input
            className={`${inputClass} mt-1 min-h-11`}
            maxLength={200}
            autoComplete="off"
            value={text}
            onChange={(event) => setText(event.target.value)}
          />
        </label>
      )}
      {step.local && (
        <label className="mt-2 inline-flex min-h-11 items-center gap-2">
          <input type="checkbox" className="h-5 w-5" checked={local} onChange={(e) => setLocal(e.target.checked)} />a
          local isolator is used instead of a lock
        </label>
      )}
      <p className="mt-3 flex gap-3 max-sm:flex-col">
        {step.needs === "clear" ? (
          <>
            {(["no", "isolated"] as const).map((answer) => (
              <button
                key={answer}
                type="button"
                className={big}
                disabled={!text.trim()}
                onClick={() => onDone({ value: `${answer}: ${text.trim()}` })}
              >
                {ISOLATION[answer]}
              </button>
            ))}
            <button
              type="button"
              className={`${big} border-short text-short`}
              onClick={() => onDone({ value: NOT_CLEAR })}
            >
              {ISOLATION.notIsolated}
            </button>
          </>
        ) : step.needs === "dead" ? (
          <>
            <button type="button" className={big} onClick={() => onDone({ value: "dead" })}>
              dead
            </button>
            <button
              type="button"
              className={`${big} border-short text-short`}
              onClick={() => onDone({ value: "live" })}
            >
              {ISOLATION.stillLive}
            </button>
          </>
        ) : (
          <button type="submit" className={big} disabled={step.needs === "words" && !text.trim()}>
            done
          </button>
        )}
      </p>
    </form>
  );
}

function Told({ steps }: { steps: readonly IsolationDone[] }) {
  return (
    <ol className="mt-2">
      {steps.map((d) => (
        <li key={d.step.key} className="border-hair border-t py-1">
          {glued(d.step.text)}
          {d.value && (
            <>
              {d.step.text.endsWith("?") ? " " : ": "}
              <strong>{d.value}</strong>
            </>
          )}
          {d.local && (
            <>
              : <strong>local isolator, {d.local}</strong>
            </>
          )}{" "}
          <span className="text-faded">{d.by ? `${d.by}, ${clockOf(d.at)}` : "not done"}</span>
        </li>
      ))}
    </ol>
  );
}

/** A tag for each lock, on paper alone. */
function Tags({ record }: { record: IsolationRecord }) {
  const tagged = record.steps.filter((d) => d.step.key.startsWith("tag:") && d.by);
  if (tagged.length === 0) return null;
  return (
    <>
      <p className="no-print mt-3">
        <Button onClick={() => window.print()}>print the {tagged.length === 1 ? "tag" : "tags"}</Button>
      </p>
      <div className="print-only">
        {tagged.map((d) => (
          <div key={d.step.key} className="my-4 border-4 border-black p-4" style={{ breakInside: "avoid" }}>
            <p className="font-semibold text-2xl">{ISOLATION.doNotSwitch}</p>
            <p className="text-xl">Someone is working on {record.title}</p>
            <p>{d.step.text}</p>
            <p>
              {d.value}; {d.by}, {dayOf(d.at)} {clockOf(d.at)}
            </p>
            <p>{ISOLATION.onlyPersonNamed}</p>
          </div>
        ))}
      </div>
    </>
  );
}
