import { Toolbar } from "radix-ui";
import { type ComponentProps, useState } from "react";
import type { Change, Circuit, CircuitResult, Route, Span } from "../../api/types";
import { LAID } from "../../parts/laid";
import { More } from "../../parts/more";
import { PartFields } from "../../parts/part-fields";
import { leaveRoute, routeOf, setAsItLies, together } from "../../parts/routes";
import { useRoutes } from "../../parts/use-routes";
import { change, setFields, useJob, useLimits, useRules, useStore } from "../../sync/job-context";
import { BOARD, befores, begins, endName, isPlain } from "../../sync/legs";
import { Button, Command } from "../../ui/controls";
import { ComboEditor, containing, NumberEditor, NumberField, TextEditor } from "../../ui/editors";
import { quantity } from "../../ui/quantity";
import { Sentence } from "../../ui/sentence";
import { type EditorProps, Word } from "../../ui/word";
import { CutIn } from "./cut-in-sheet";
import { OwnCable, otherCable } from "./own-cable";
import { branchFrom, canSplit, goOn, NO_CABLE, removeSpan, splitChanges, withoutSpan } from "./span-edits";
import { OWN_CABLE, SPAN_LINE } from "./words";

interface Props {
  circuit: Circuit;
  result: CircuitResult | null;
  selected: string | null;
  onSelect: (span: string | null) => void;
}

/** The spans as chips to walk through, and the chosen one as a sentence whose words are its inputs. */
export function SpanLine({ circuit, result, selected, onSelect }: Props) {
  const store = useStore();
  const rules = useRules();
  const { routes, shared, lying } = useRoutes();
  const spans = circuit.run.spans;
  const at = Math.max(
    0,
    spans.findIndex((s) => s.id === selected),
  );
  const plain = spans[at];
  // As it lies: what its route says stands in the sentence like its own.
  const span = plain && lying(plain);
  const route = routes.find((r) => r.id === plain?.route);

  const [cutting, setCutting] = useState(false);
  const take = ({ changes, id }: { changes: Change[]; id: string }) => {
    store.edit(changes);
    onSelect(id);
  };
  const add = () => take(goOn(circuit.id, spans, plain));
  const mayBranch = circuit.shape === "radial" && !circuit.feeds;
  // Moved, a span of a tree would leave from elsewhere, and one of a run of several cables lie in another.
  const tree = spans.some((s) => s.after || begins(s));
  const split = () => {
    if (!span || !canSplit(span)) return;
    take(splitChanges(circuit, span));
  };
  const move = (by: number) => span && store.edit([change("move", "span", span.id, { index: at + by })]);
  const remove = () => {
    if (!span) return;
    store.edit(plain ? removeSpan(spans, plain) : []);
    onSelect(withoutSpan(spans, at));
  };

  return (
    <section aria-label={SPAN_LINE.spans} className="mt-1">
      <Toolbar.Root className="no-print flex flex-wrap items-center gap-x-1 gap-y-1" aria-label={SPAN_LINE.spansRun}>
        {spans.map((s, i) => (
          <Toolbar.Button
            key={s.id}
            aria-pressed={i === at}
            aria-label={`Span ${i + 1}: ${titleOf(lying(s), rules.places)}`}
            className="min-h-8 min-w-8 border-copper px-2 aria-pressed:border-b-4 aria-pressed:font-semibold"
            onClick={() => onSelect(s.id)}
          >
            {i + 1}
          </Toolbar.Button>
        ))}
        <span className="ml-auto flex flex-wrap gap-x-4">
          <Tool keys="a" onClick={add}>
            add
          </Tool>
          <Tool keys="s" onClick={split} disabled={!canSplit(span)}>
            split
          </Tool>
          {mayBranch && (
            <Tool
              onClick={() => plain && take(branchFrom(circuit.id, plain.id))}
              disabled={!plain}
              aria-label={SPAN_LINE.branchFromEnd}
            >
              branch
            </Tool>
          )}
          <Tool onClick={() => setCutting(true)} disabled={!span} aria-label={SPAN_LINE.boardGoesIn}>
            board here …
          </Tool>
          <Tool keys="," onClick={() => move(-1)} disabled={at === 0 || tree} aria-label={SPAN_LINE.moveSpanTowards}>
            ◂
          </Tool>
          <Tool
            keys="."
            onClick={() => move(1)}
            disabled={at >= spans.length - 1 || tree}
            aria-label={SPAN_LINE.moveSpanTowardsFar}
          >
            ▸
          </Tool>
          <Tool onClick={remove} disabled={!span}>
            remove
          </Tool>
        </span>
      </Toolbar.Root>
      {span && (
        <CutIn
          circuit={circuit}
          spans={spans.map(lying)}
          span={span}
          open={cutting}
          onClose={() => setCutting(false)}
        />
      )}
      {span ? (
        <>
          <SpanSentence key={span.id} circuit={circuit} span={span} at={at} result={result} />
          <More close title={SPAN_LINE.moreSpan} note={moreOf(span)}>
            {circuit.shape === "radial" && (at > 0 || span.after !== null) && !begins(span) && (
              <button
                type="button"
                className="word mb-2"
                onClick={() => store.edit([setFields("span", span.id, otherCable(circuit, span))])}
              >
                {SPAN_LINE.otherCable}
              </button>
            )}
            <PartFields
              kind="span"
              values={span}
              onSave={(fields) => store.edit(setAsItLies(plain, route, shared, fields, rules))}
              skip={[
                "name",
                "place",
                "length",
                "ambient",
                "group",
                "laid",
                "wrapped",
                "route",
                "after",
                ...Object.keys(NO_CABLE),
                ...(isPlain(spans, circuit.loads) ? [] : ["box"]),
              ]}
            />
          </More>
        </>
      ) : (
        <p className="mt-1 text-faded">{SPAN_LINE.noSpansYet}</p>
      )}
    </section>
  );
}

/** A command in the toolbar: one stop for Tab, arrows inside. */
function Tool(props: ComponentProps<typeof Command>) {
  return (
    <Toolbar.Button asChild>
      <Command {...props} />
    </Toolbar.Button>
  );
}

const titleOf = (span: Span, places: readonly { id: string; title: string }[]) =>
  span.name || places.find((p) => p.id === span.place)?.title || "installation method not chosen";

/** What is entered there that shows nowhere else. */
const moreOf = (span: Span) =>
  [span.location, span.polystyrene && "touches polystyrene", span.fire_barrier && "passes a fire barrier"]
    .filter(Boolean)
    .join(", ");

function SpanSentence({
  circuit,
  span,
  at,
  result,
}: {
  circuit: Circuit;
  span: Span;
  at: number;
  result: CircuitResult | null;
}) {
  const store = useStore();
  const rules = useRules();
  const length = useLimits("span.length");
  const ambient = useLimits("span.ambient");
  const ground = useLimits("span.ground");
  const { routes, shared, others } = useRoutes();
  const route = routes.find((r) => r.id === span.route);
  const beside = route ? others(route.id, circuit.id) : [];
  const set = (fields: Change["fields"]) => store.edit(setAsItLies(span, route, shared, fields, rules));
  const place = rules.places.find((p) => p.id === span.place);
  const found = result?.spans.find((s) => s.id === span.id);
  const problem = result?.problems.find((p) => p.field.startsWith(`span.${span.id}.`));
  const methods = rules.families.find((f) => f.id === circuit.run.cable.family)?.methods;
  const places = rules.places.map((p) => ({
    value: p.id,
    text: p.title,
    also: p.said.join(" "),
    note: methods && !methods.includes(p.method) ? `method ${p.method}: not tabulated` : `method ${p.method}`,
  }));
  return (
    <Sentence id="span">
      <p data-sentence data-span={span.id} className="text-[1.05rem] leading-[1.6]">
        {`Span ${at + 1}, `}
        {!isPlain(circuit.run.spans, circuit.loads) && <Leaves circuit={circuit} span={span} at={at} />}
        <Word after=":" label={SPAN_LINE.spanName} text={span.name || "unnamed"}>
          {(e) => (
            <TextEditor {...e} label={SPAN_LINE.whereOwnWords} value={span.name} onSave={(name) => set({ name })} />
          )}
        </Word>{" "}
        <Word
          label={SPAN_LINE.spanLength}
          text={span.length === null ? "a length" : quantity(span.length, "m")}
          missing={span.length === null}
        >
          {(e) => (
            <NumberEditor
              {...e}
              label={SPAN_LINE.lengthSpan}
              value={span.length}
              limits={length}
              onSave={(v) => set({ length: v })}
            />
          )}
        </Word>{" "}
        <Word
          after=","
          label="surroundings"
          text={place?.title ?? "installation method not chosen"}
          missing={!place}
          wide
        >
          {(e) => (
            <ComboEditor
              {...e}
              label={SPAN_LINE.installationMethod}
              options={containing(places)}
              onSave={(id) => set({ place: id })}
            />
          )}
        </Word>
        {" at "}
        <Word after="," label="temperature" text={quantity(place?.ground ? span.ground : span.ambient, "°C")}>
          {(e) => (
            <NumberEditor
              {...e}
              label={place?.ground ? "Ground temperature" : "Ambient temperature"}
              value={place?.ground ? span.ground : span.ambient}
              limits={place?.ground ? ground : ambient}
              onSave={(v) => v !== null && set(place?.ground ? { ground: v } : { ambient: v })}
            />
          )}
        </Word>{" "}
        <Word after="," label="group" text={groupText(span, routes)} wide>
          {(e) => <GroupEditor {...e} circuit={circuit} span={span} onSave={set} />}
        </Word>{" "}
        <Word
          label="wrapped"
          text={
            span.wrapped > 0
              ? `${quantity(span.wrapped, "m")} surrounded by insulation`
              : "not surrounded by insulation"
          }
          bad={problem?.field.endsWith("wrapped")}
        >
          {(e) => (
            <NumberEditor
              {...e}
              label={SPAN_LINE.lengthSurroundedThermal}
              value={span.wrapped}
              limits={{ lo: 0, hi: span.length ?? length.hi, unit: "m" }}
              onSave={(v) => set({ wrapped: v ?? 0 })}
            />
          )}
        </Word>
        {!isPlain(circuit.run.spans, circuit.loads) && (
          <>
            {" ending at "}
            <Word label={SPAN_LINE.atEnd} text={span.box || SPAN_LINE.nothingNamed}>
              {(e) => <TextEditor {...e} label={SPAN_LINE.whatAtEnd} value={span.box} onSave={(box) => set({ box })} />}
            </Word>
          </>
        )}
        {begins(span) && <OwnCable circuit={circuit} span={span} />}
        {begins(span) && (
          <button type="button" className="word no-print ml-1 text-[1rem]" onClick={() => set({ ...NO_CABLE })}>
            {OWN_CABLE.back}
          </button>
        )}
        {found && <SpanFigure iz={found.iz} method={found.method} error={found.error} />}
        {problem && <span className="text-short"> {`${problem.given} entered; allowed ${problem.allowed}.`}</span>}
      </p>
      {beside.length > 0 && (
        <p data-shared className="text-faded">
          Its installation method comes from {route?.name || "its route"}: a change here also changes {together(beside)}{" "}
          too.
        </p>
      )}
    </Sentence>
  );
}

/** Where a span of a run that branches leaves from. */
function Leaves({ circuit, span, at }: { circuit: Circuit; span: Span; at: number }) {
  const store = useStore();
  const spans = circuit.run.spans;
  const from = befores(spans)?.get(span.id) ?? null;
  const before = spans[at - 1]?.id ?? null;
  const text = from === null ? SPAN_LINE.fromBoard : `from ${endName(spans, from)}`;
  return (
    <>
      <Word label={SPAN_LINE.leavesFrom} text={text} wide>
        {(e) => (
          <ComboEditor
            {...e}
            label={SPAN_LINE.leavesFrom}
            options={containing([
              { value: BOARD, text: SPAN_LINE.fromBoard },
              ...spans.slice(0, at).map((s) => ({ value: s.id, text: `from ${endName(spans, s.id)}` })),
            ])}
            onSave={(to) => {
              const usual = to === (before ?? BOARD);
              store.edit([setFields("span", span.id, { after: usual ? null : to })]);
            }}
          />
        )}
      </Word>
      {", "}
    </>
  );
}

function SpanFigure({ iz, method, error }: { iz: number | null; method: string; error: string | null }) {
  if (iz === null) return <span className="text-faded"> · {error ? `Iz not known: ${error}` : ""}</span>;
  return (
    <span className="whitespace-nowrap text-faded">
      {" · method "}
      {method}, Iz <span className="figure text-ink">{quantity(iz, "A")}</span>
    </span>
  );
}

const groupText = (span: Span, routes: readonly Route[]) => {
  const route = routes.find((b) => b.id === span.route);
  if (route) return `in ${route.name || `a ${route.kind}`}`;
  return span.group === 1 ? "alone" : `${span.group} circuits ${LAID[span.laid] ?? span.laid}`;
};

interface GroupProps extends EditorProps {
  circuit: Circuit;
  span: Span;
  onSave: (fields: Change["fields"]) => void;
}

/** Who lies beside a span: the route it is in, a route or a stretch of another circuit to join, or a count by hand. */
function GroupEditor({ circuit, span, onSave, next, close }: GroupProps) {
  const store = useStore();
  const rules = useRules();
  const { inputs } = useJob();
  const { routes, shared, lying, others } = useRoutes();
  const limits = useLimits("span.group");
  const route = routes.find((r) => r.id === span.route);
  const there = rules.places.find((place) => place.id === span.place);
  const fits = (laid: string) => there === undefined || there.laid.includes(laid);
  const stretches = (inputs?.circuits ?? [])
    .filter((c) => c.id !== circuit.id)
    .flatMap((c) => c.run.spans.filter((s) => s.route === null).map((s) => ({ circuit: c, span: lying(s) })));
  const join = (to: Route) => {
    // Its own length stays where it is another: it leaves the route half-way.
    store.edit([setFields("span", span.id, { route: to.id, ...(span.length === to.length ? { length: null } : {}) })]);
    close();
  };
  const joinStretch = (other: Span) => {
    const id = crypto.randomUUID();
    const name = other.name || span.name || titleOf(other, rules.places);
    store.edit([
      change("add", "route", id, { fields: routeOf(other, name, shared) }),
      setFields("span", other.id, { route: id, length: null }),
      setFields("span", span.id, { route: id, ...(span.length === other.length ? { length: null } : {}) }),
    ]);
    close();
  };
  const leave = () => {
    if (route) store.edit([leaveRoute(span, route, shared)]);
    close();
  };
  if (route) {
    const beside = others(route.id, circuit.id);
    return (
      <div>
        <p>
          In {route.name || "a route"}
          {beside.length > 0 ? `, with ${together(beside)}` : ", alone so far"}.
        </p>
        <Button className="mt-2" onClick={leave}>
          {SPAN_LINE.leaveRouteKeep}
        </Button>
        {routes.length > 1 && <RouteList routes={routes.filter((r) => r !== route)} onPick={join} />}
      </div>
    );
  }
  return (
    <form
      onSubmit={(event) => {
        event.preventDefault();
        next();
      }}
    >
      {routes.length > 0 && <RouteList routes={routes} onPick={join} />}
      {stretches.length > 0 && (
        <fieldset className="mb-2">
          <legend className="text-faded">{SPAN_LINE.alongsideAnotherCircuits}</legend>
          <Stretches of={stretches.filter((one) => one.span.place === span.place)} onPick={joinStretch} />
          <details>
            <summary className="cursor-pointer py-0.5 text-faded hover:bg-lit">
              {SPAN_LINE.installedDifferently}
            </summary>
            <Stretches of={stretches.filter((one) => one.span.place !== span.place)} onPick={joinStretch} />
          </details>
        </fieldset>
      )}
      <NumberField
        label={SPAN_LINE.circuitsGroupedIncluding}
        value={span.group}
        limits={{ ...limits, unit: "", whole: true }}
        onSave={(v) => v !== null && onSave({ group: v })}
      />
      <fieldset className="mt-2">
        <legend className="text-faded">{SPAN_LINE.howTheyGrouped}</legend>
        {rules.laid
          .filter((laid) => fits(laid) || laid === span.laid)
          .map((laid) => (
            <label key={laid} className="flex items-center gap-2 py-0.5">
              <input type="radio" name="laid" checked={span.laid === laid} onChange={() => onSave({ laid })} />
              {LAID[laid] ?? laid}
              {!fits(laid) && <span className="text-short">{SPAN_LINE.notPossibleHere}</span>}
            </label>
          ))}
      </fieldset>
      <p className="mt-1 text-faded">{SPAN_LINE.enterFinish}</p>
    </form>
  );
}

function Stretches({ of, onPick }: { of: readonly { circuit: Circuit; span: Span }[]; onPick: (span: Span) => void }) {
  const rules = useRules();
  return of.map((one) => (
    <button
      key={one.span.id}
      type="button"
      className="block w-full px-1 py-0.5 text-left hover:bg-lit"
      onClick={() => onPick(one.span)}
    >
      {`${one.circuit.name || "Unnamed circuit"}: ${titleOf(one.span, rules.places)}`}
      {one.span.length !== null && (
        <span className="whitespace-nowrap text-faded"> {quantity(one.span.length, "m")}</span>
      )}
    </button>
  ));
}

function RouteList({ routes, onPick }: { routes: readonly Route[]; onPick: (route: Route) => void }) {
  return (
    <fieldset className="mb-2">
      <legend className="text-faded">{SPAN_LINE.route}</legend>
      {routes.map((r) => (
        <button
          key={r.id}
          type="button"
          className="block w-full px-1 py-0.5 text-left hover:bg-lit"
          onClick={() => onPick(r)}
        >
          {r.name || "unnamed"}
        </button>
      ))}
    </fieldset>
  );
}
