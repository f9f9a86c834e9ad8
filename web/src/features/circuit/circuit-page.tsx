import { useEffect, useState } from "react";
import { Link } from "react-router";
import type { Circuit, CircuitResult, Profile } from "../../api/types";
import { usePaths } from "../../parts/paths";
import { change, useCircuit, useJob, useStore } from "../../sync/job-context";
import { endName, endsOf, leaving, pathTo } from "../../sync/legs";
import { Command } from "../../ui/controls";
import { useKeys } from "../../ui/keys";
import { Moved } from "../../ui/moved";
import { glued } from "../../ui/quantity";
import { useWords } from "../../ui/sentence";
import { Mark, TONE } from "../../ui/verdict";
import { Opening } from "../../ui/view";
import { Checks } from "./checks";
import { CircuitDetails } from "./circuit-details";
import { DriverWords } from "./driver-words";
import { Ends } from "./ends";
import { OnSite } from "./on-site";
import { SpanProfile } from "./profile";
import { SizeIt } from "./size-it";
import { SourceWords } from "./source-words";
import { canSplit, goOn, splitChanges } from "./span-edits";
import { SpanLine } from "./span-line";
import { Statement } from "./statement";
import type { Branch } from "./strip";
import { pointsOf, TakenOff } from "./taken-off";
import { WaysOut } from "./ways-out";
import { CIRCUIT } from "./words";

interface Props {
  id: string;
  check: string | null;
  /** Whether to go to the first missing word once the circuit is there. */
  seek: boolean;
  /** Whether it was only just made: its name is asked first. */
  fresh: boolean;
  onCheck: (id: string) => void;
}

/** A circuit: statement, verdict, span profile, checks. */
export function CircuitPage({ id, check, seek, fresh, onCheck }: Props) {
  const store = useStore();
  const { state, behind, name } = useJob();
  const circuit = useCircuit(id);
  const result = state?.detail?.id === id ? state.detail : null;
  const [selected, setSelected] = useState<string | null>(null);
  const [way, setWay] = useState<string | null>(null);
  const profile = result ? (state?.paths.find((p) => p.end === way) ?? state?.profile ?? null) : null;
  const [sizing, setSizing] = useState(false);
  const [leaving, setLeaving] = useState(false);
  const opened = result !== null;
  const words = useWords();
  useEffect(() => {
    if (seek && opened) words.focusMissing();
  }, [seek, opened, words]);
  const unnamed = fresh && circuit?.name === "";
  useEffect(() => {
    if (unnamed) words.open("name");
  }, [unnamed, words]);
  const paths = usePaths();
  const spans = circuit?.run.spans ?? [];
  const at = Math.max(
    0,
    spans.findIndex((s) => s.id === selected),
  );
  const ruling = profile?.governing ?? null;
  const chosen = spans.some((s) => s.id === selected) ? selected : (ruling ?? spans[0]?.id ?? null);
  const ends = result?.ends.filter((e) => e.last).map((e) => e.span) ?? [];
  /** Choose a span; of a run that branches a path is drawn that it is on. */
  const choose = (span: string | null) => {
    setSelected(span);
    if (!span || profile?.stretches.some((s) => s.span === span)) return;
    setWay(ends.find((end) => pathTo(spans, end).some((s) => s.id === span)) ?? null);
  };
  const walk = (by: number) => {
    const next = ends[(ends.indexOf(profile?.end ?? "") + by + ends.length) % ends.length];
    if (!next) return;
    setWay(next);
    setSelected(next);
  };
  useKeys({
    z: () => setSizing(true),
    o: () => setLeaving(true),
    a: () => {
      const { changes, id: span } = goOn(id, spans, spans[at]);
      store.edit(changes);
      setSelected(span);
    },
    x: () => walk(1),
    X: () => {
      setWay(null);
      setSelected(null);
    },
    s: () => {
      const span = spans.find((p) => p.id === chosen);
      if (!circuit || !span || !canSplit(span)) return;
      const { changes, id: half } = splitChanges(circuit, span);
      store.edit(changes);
      setSelected(half);
    },
    "[": () => setSelected(spans[Math.max(0, spans.findIndex((p) => p.id === chosen) - 1)]?.id ?? null),
    "]": () => setSelected(spans[spans.findIndex((p) => p.id === chosen) + 1]?.id ?? chosen),
    ",": () => nudge(-1),
    ".": () => nudge(1),
    e: () => words.focus("load"),
  });
  const nudge = (by: number) => {
    const from = spans.findIndex((p) => p.id === chosen);
    const to = from + by;
    if (chosen && to >= 0 && to < spans.length && !spans.some((s) => s.after))
      store.edit([change("move", "span", chosen, { index: to })]);
  };

  if (!state) return <Opening />;
  if (!circuit)
    return (
      <div className="p-6">
        <p>{CIRCUIT.circuitNoLonger}</p>
        <p className="mt-2 text-faded">{CIRCUIT.ifRemovedJust}</p>
        <Link className="word mt-2 inline-block" to={paths.attention}>
          {CIRCUIT.backAttentionList}
        </Link>
      </div>
    );
  return (
    <div className="px-5 py-3 max-sm:px-3 max-sm:pb-28">
      <h1 className="sr-only">{circuit.name || "Unnamed circuit"}</h1>
      {state.stage && (
        <p className="border-close border-l-4 pl-3" data-stage>
          {CIRCUIT.hardest} <strong>{state.stage}</strong>.{" "}
          <Link className="word" to={paths.stages}>
            {CIRCUIT.stages}
          </Link>
        </p>
      )}
      <p className="hidden justify-between border-hair border-b pb-1 print:flex">
        <strong>{name}</strong>
        <span>{CIRCUIT.designAidVerdict}</span>
      </p>
      <Statement circuit={circuit} />
      <SourceWords circuit={circuit} />
      <DriverWords circuit={circuit} />
      <VerdictLine result={result} behind={behind} onSize={() => setSizing(true)} onWays={() => setLeaving(true)} />
      <SpanProfile
        profile={profile}
        selected={chosen}
        onSelect={choose}
        onCancel={store.tryNoMore}
        onDrag={(span, length) => store.tryOut([change("set", "span", span, { fields: { length } })])}
        onDrop={(span, length) => store.edit([change("set", "span", span, { fields: { length } })])}
        branches={branchesOf(circuit, profile)}
        points={pointsOf(circuit, profile)}
        onPointDrag={(load, at) => store.tryOut([change("set", "load", load, { fields: { at } })])}
        onPoint={(load, at) => store.edit([change("set", "load", load, { fields: { at } })])}
      >
        {result && result.ends.length > 0 && (
          <Ends result={result} shown={profile?.end ?? ""} selected={chosen} onShow={choose} />
        )}
        <SpanLine circuit={circuit} result={result} selected={chosen} onSelect={choose} />
      </SpanProfile>
      <TakenOff circuit={circuit} />
      {result && (
        <>
          <Problems result={result} />
          <Checks checks={result.checks} open={check} onOpen={onCheck} />
        </>
      )}
      <div className="mt-4">
        <CircuitDetails circuit={circuit} />
        <OnSite circuit={circuit} result={result} />
      </div>
      <WaysOut circuit={circuit} open={leaving} onOpenChange={setLeaving} />
      <SizeIt circuit={circuit} open={sizing} onOpenChange={setSizing} />
    </div>
  );
}

/** What leaves from the boxes of the path that is drawn, by name. */
function branchesOf(circuit: Circuit, profile: Profile | null): Branch[] {
  const spans = circuit.run.spans;
  const path = profile?.stretches.map((s) => s.span) ?? [];
  const ends = endsOf(spans);
  return [...leaving(spans, path)].flatMap(([from, firsts]) =>
    firsts.map((first) => {
      const behind = ends.filter((end) => pathTo(spans, end.id).some((s) => s.id === first.id));
      const name = [...new Set([endName(spans, first.id), ...behind.map((end) => endName(spans, end.id))])].join(" … ");
      return { span: first.id, from, name };
    }),
  );
}

/** What is short has ways out; so has what waits for a maker's figure, which may be asked for. */
const hasWaysOut = (result: CircuitResult) =>
  result.verdict === "short" ||
  result.checks.some((c) => c.decides && c.verdict === "not_known" && c.field === "device.i2t");

function VerdictLine({
  result,
  behind,
  onSize,
  onWays,
}: {
  result: CircuitResult | null;
  behind: boolean;
  onSize: () => void;
  onWays: () => void;
}) {
  return (
    <div
      className="@container mt-2 border-hair border-y py-1.5 max-sm:fixed max-sm:inset-x-0 max-sm:bottom-0 max-sm:z-10 max-sm:bg-paper max-sm:px-3"
      aria-live="polite"
      aria-busy={behind}
      data-verdict={result?.verdict}
    >
      <div className="flex flex-wrap items-baseline gap-x-4 gap-y-1">
        {result ? (
          <>
            <Mark verdict={result.verdict} size={18} />
            <strong className={`text-[1.15rem] ${TONE[result.verdict]}`}>
              <Moved value={result.headline}>{result.headline}</Moved>
            </strong>
            {/* Always as high: what stands below does not move when the reason changes while somebody types. The checks have it whole. */}
            <span
              className="order-last line-clamp-1 min-w-0 basis-full @4xl:order-none @4xl:line-clamp-2 @4xl:min-h-[2.9em] @4xl:flex-1 @4xl:basis-44 max-sm:line-clamp-2 max-sm:min-h-[2.9em] print:line-clamp-none"
              title={result.reason}
            >
              {glued(result.reason)}
            </span>
          </>
        ) : (
          <span className="flex-1 text-faded">{CIRCUIT.workingOut}</span>
        )}
        <span className="no-print ml-auto flex gap-x-4">
          {result && hasWaysOut(result) && (
            <Command keys="o" onClick={onWays}>
              fixes
            </Command>
          )}
          <Command keys="z" onClick={onSize}>
            {CIRCUIT.size}
          </Command>
        </span>
      </div>
    </div>
  );
}

function Problems({ result }: { result: CircuitResult }) {
  if (result.problems.length === 0) return null;
  return (
    <ul role="alert" className="mt-3 border-short border-l-4 pl-3">
      {result.problems.map((p) => (
        <li key={p.field}>
          {p.field}: {p.given} entered; allowed {p.allowed}
        </li>
      ))}
    </ul>
  );
}
