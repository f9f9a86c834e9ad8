import { useState } from "react";
import type { Change, Circuit, Load, Rules } from "../../api/types";
import { SOURCES } from "../../parts/sources";
import { useRoutes } from "../../parts/use-routes";
import { change, NOBODY, setFields, useJob, useLimits, useRules, useStore } from "../../sync/job-context";
import { begins, endsOf, isPlain } from "../../sync/legs";
import { Button } from "../../ui/controls";
import { ComboEditor, containing, inputClass, NumberEditor, NumberField, TextEditor, Why } from "../../ui/editors";
import { quantity, shortFigure } from "../../ui/quantity";
import { Sentence } from "../../ui/sentence";
import { type EditorProps, Word } from "../../ui/word";
import { DeviceEditor, DeviceFacts } from "./device-words";
import { cableOf } from "./own-cable";
import { cableOptions, cableText, deviceText, loadsText, loadText, otherThan, readLoad } from "./reading";
import { STATEMENT } from "./words";

/** The circuit as one sentence whose words are its inputs. */
export function Statement({ circuit }: { circuit: Circuit }) {
  const store = useStore();
  const rules = useRules();
  const { inputs } = useJob();
  const { lying } = useRoutes();
  if (!inputs) return null;
  const { supply } = inputs;
  const board = inputs.boards.find((b) => b.id === circuit.board);
  const spans = circuit.run.spans.map(lying);
  const length = spans.reduce((sum, s) => sum + (s.length ?? 0), 0);
  const lengthKnown = spans.length > 0 && spans.every((s) => s.length !== null);
  const set = (fields: Change["fields"]) => store.edit([setFields("circuit", circuit.id, fields)]);
  const { device } = circuit;
  const facts = device.idn !== null || device.icn !== null;
  const divided = board !== undefined && (board.rcd2_idn !== null || board.rcd3_idn !== null);
  const feeds = circuit.feeds !== null || (circuit.loads.length === 0 && inputs.boards.length > 1);
  return (
    <Sentence id="circuit">
      <p data-sentence className="text-[1.3rem] leading-[1.65] max-sm:text-[1.15rem]">
        <Word after=":" label="name" text={circuit.name || "Unnamed circuit"} missing={!circuit.name}>
          {(e) => (
            <TextEditor {...e} label={STATEMENT.nameBoardChart} value={circuit.name} onSave={(name) => set({ name })} />
          )}
        </Word>
        {" a "}
        {(supply.phases === 3 || circuit.phases === 3) && (
          <>
            <Word label="phases" text={circuit.phases === 3 ? "three-phase" : "single-phase"}>
              {(e) => (
                <ComboEditor
                  {...e}
                  label={STATEMENT.phasesCircuit}
                  options={containing([
                    { value: 1 as Circuit["phases"], text: "single-phase" },
                    { value: 3 as Circuit["phases"], text: "three-phase" },
                  ])}
                  onSave={(phases) => set(phases === 3 ? { phases, phase: null } : { phases })}
                />
              )}
            </Word>{" "}
          </>
        )}
        <Word label="shape" text={circuit.shape}>
          {(e) => (
            <ComboEditor
              {...e}
              label={STATEMENT.radialRing}
              options={containing([
                { value: "radial", text: "radial", note: "one cable out" },
                { value: "ring", text: "ring", note: "out and back to one way" },
              ])}
              onSave={(shape) => set({ shape })}
            />
          )}
        </Word>
        {supply.phases === 3 && circuit.phases === 1 && (
          <>
            {" on "}
            <Word label="phase" text={circuit.phase ?? "a phase to choose"} missing={circuit.phase === null}>
              {(e) => (
                <ComboEditor
                  {...e}
                  label={STATEMENT.phase}
                  options={containing([
                    ...(["L1", "L2", "L3"] as const).map((p) => ({ value: p as Circuit["phase"], text: p })),
                    { value: null as Circuit["phase"], text: "not chosen yet", note: "counted on all three phases" },
                  ])}
                  onSave={(phase) => set({ phase })}
                />
              )}
            </Word>
          </>
        )}
        {" for "}
        <Word label="load" text={loadsText(circuit)} missing={circuit.loads.length === 0 && !circuit.feeds} wide>
          {(e) => <LoadsEditor {...e} circuit={circuit} />}
        </Word>
        <Allowance
          circuit={circuit}
          household={inputs.premises === "household"}
          onSet={(diversified) => set({ diversified })}
        />
        {device.rating === null ? " on " : ` on ${article(device.rating)} `}
        <Word
          after={facts ? undefined : ","}
          label="device"
          text={deviceText(device, rules)}
          missing={device.rating === null}
          wide
        >
          {(e) => <DeviceEditor {...e} circuit={circuit} />}
        </Word>
        <DeviceFacts device={device} onSet={(fields) => set({ device: fields })} />
        {facts ? ", in " : " in "}
        <Word
          after=","
          label="cable"
          text={cableText(rules, circuit.run.cable)}
          missing={circuit.run.cable.csa === null}
          wide
        >
          {(e) => (
            <ComboEditor
              {...e}
              label={STATEMENT.cableSizeThen}
              placeholder={STATEMENT.of10Flat10}
              options={cableOptions(rules, circuit.run.cable)}
              onSave={(cable) => {
                const changed = otherThan(circuit.run.cable, cable);
                if (Object.keys(changed).length > 0) set({ cable: changed });
              }}
            />
          )}
        </Word>{" "}
        {othersTold(rules, circuit)}
        <Word label="length" text={lengthKnown ? quantity(length, "m") : "a length"} missing={!lengthKnown}>
          {(e) => <LengthEditor {...e} circuit={circuit} />}
        </Word>
        {spans.length > 1 && ` along ${spans.length} spans${branchesTold(circuit)}`}
        {" from "}
        <Word after={divided ? undefined : feeds ? "," : "."} label="board" text={board?.name || "a board"}>
          {(e) => (
            <ComboEditor
              {...e}
              label={STATEMENT.boardFed}
              options={containing<string>(inputs.boards.map((b) => ({ value: b.id, text: b.name || "Unnamed board" })))}
              onSave={(id) =>
                id !== circuit.board && store.edit([change("move", "circuit", circuit.id, { parent: id })])
              }
            />
          )}
        </Word>
        {divided && (
          <>
            {" "}
            <Word after={feeds ? "," : "."} label="section" text={SECTIONS[circuit.section]}>
              {(e) => (
                <ComboEditor
                  {...e}
                  label={STATEMENT.section}
                  options={containing(
                    ([1, 2, 3, 0] as const).map((n) => ({ value: n as Circuit["section"], text: SECTIONS[n] })),
                  )}
                  onSave={(section) => set({ section })}
                />
              )}
            </Word>
          </>
        )}
        {feeds && (
          <>
            {" feeding "}
            <Word
              after="."
              label="feeds"
              text={inputs.boards.find((b) => b.id === circuit.feeds)?.name || "no further board"}
            >
              {(e) => (
                <ComboEditor
                  {...e}
                  label={STATEMENT.boardFeedsSub}
                  options={containing([
                    { value: null as string | null, text: "no further board" },
                    ...inputs.boards
                      .filter((b) => b.id !== circuit.board)
                      .map((b) => ({ value: b.id as string | null, text: b.name || "Unnamed board" })),
                  ])}
                  onSave={(id) => set({ feeds: id })}
                />
              )}
            </Word>
          </>
        )}
        {" Ze is "}
        <Word
          after="."
          label="Ze"
          text={supply.ze === null ? "not entered" : `${shortFigure(supply.ze)} Ω, ${supply.ze_source}`}
          missing={supply.ze === null}
          assumed={supply.ze !== null && supply.ze_source === "assumed"}
        >
          {(e) => <ZeEditor {...e} />}
        </Word>
      </p>
    </Sentence>
  );
}

/** Where on a board that is divided by RCD a circuit is. */
const SECTIONS: Record<Circuit["section"], string> = {
  1: "behind RCD 1",
  2: "behind RCD 2",
  3: "behind RCD 3",
  0: "behind none of its RCDs",
};

/** How much of a load counts, where there are two schools: cooking of a household after the usual allowance, or in full. */
function Allowance({
  circuit,
  household,
  onSet,
}: {
  circuit: Circuit;
  household: boolean;
  onSet: (diversified: boolean | null) => void;
}) {
  const cooking = household && circuit.loads.length > 0 && circuit.loads.every((l) => l.kind === "cooking");
  // What is no cooking is in full unless somebody says otherwise, and needs no word for that.
  if (!cooking && !circuit.diversified) return null;
  const after = circuit.diversified ?? true;
  const usual = cooking ? "after the usual allowance" : "after diversity";
  return (
    <>
      {` ${after ? usual : "in full"} `}
      <button
        type="button"
        className="word no-print text-[1rem]"
        onClick={() => onSet(after ? (cooking ? false : null) : cooking ? null : true)}
      >
        {after ? "or in full" : `or ${usual}`}
      </button>
    </>
  );
}

/** The cables that begin along a run; nothing of a run of one. */
const othersTold = (rules: Rules, circuit: Circuit) =>
  circuit.run.spans
    .filter(begins)
    .map((s) => `then ${cableText(rules, { ...circuit.run.cable, ...cableOf(circuit, s), cpc_csa: s.own_cpc_csa })}, `)
    .join("");

/** How many branches a run has beside its main way; nothing of a straight one. */
function branchesTold(circuit: Circuit): string {
  const count = isPlain(circuit.run.spans, circuit.loads) ? 0 : endsOf(circuit.run.spans).length - 1;
  return count > 0 ? `, with ${count} ${count === 1 ? "branch" : "branches"},` : "";
}

/** "an 80 A fuse", "a 40 A RCBO": what is said of a number that begins with eight, eleven or eighteen. */
const article = (rating: number) => (/^(8|11(\D|$)|18(\D|$))/.test(String(rating)) ? "an" : "a");

function LoadsEditor({ circuit, typed, next }: EditorProps & { circuit: Circuit }) {
  const store = useStore();
  const pf = useLimits("load.pf");
  const { kinds } = useRules();
  const [rows, setRows] = useState(() => {
    const there = circuit.loads.map((load) => ({ id: load.id as string | null, text: loadText(load) }));
    if (typed && there[0]) there[0] = { ...there[0], text: typed };
    return there.length > 0 ? there : [{ id: null, text: typed }];
  });
  const [why, setWhy] = useState("");

  const save = () => {
    const read = rows.map((row) => ({ ...row, load: readLoad(row.text, kinds) })).filter((r) => r.text.trim() !== "");
    const bad = read.find((r) => r.load === null);
    if (bad) {
      setWhy(`“${bad.text}” needs a unit or a word: 9.2 kW shower, 13 A heater, 6 x 8 W lights, sockets.`);
      return;
    }
    const kept = new Set(read.map((r) => r.id));
    const changes: Change[] = circuit.loads.filter((l) => !kept.has(l.id)).map((l) => change("remove", "load", l.id));
    for (const { id, load, text } of read) {
      const before = circuit.loads.find((l) => l.id === id);
      if (load && before && loadText(before) !== text) changes.push(setFields("load", before.id, { ...load }));
      if (load && !before)
        changes.push(change("add", "load", crypto.randomUUID(), { parent: circuit.id, fields: { ...load } }));
    }
    store.edit(changes);
    next();
  };

  return (
    <form
      onSubmit={(event) => {
        event.preventDefault();
        save();
      }}
    >
      <p className="text-faded">{STATEMENT.ratingWhat}</p>
      {rows.map((row, i) => {
        const load = readLoad(row.text, kinds);
        return (
          <div key={row.id ?? `new-${i}`} className="mt-1">
            <input
              // biome-ignore lint/a11y/noAutofocus: the popover was opened to type here
              autoFocus={i === 0}
              aria-label={`Load ${i + 1}`}
              className={inputClass}
              autoComplete="off"
              placeholder={STATEMENT.of92Kw}
              value={row.text}
              aria-invalid={why !== "" && load === null}
              onFocus={(event) => (typed && i === 0 ? undefined : event.target.select())}
              onChange={(event) => {
                setWhy("");
                setRows(rows.map((r, j) => (j === i ? { ...r, text: event.target.value } : r)));
              }}
            />
            <p className="mt-0.5 text-faded">{load ? `reads as ${loadMeaning(load)}` : "not understood yet"}</p>
          </div>
        );
      })}
      <Why id="load" text={why} />
      <div className="mt-2 flex gap-2">
        <Button onClick={() => setRows([...rows, { id: null, text: "" }])}>{STATEMENT.anotherLoad}</Button>
        <Button type="submit" strong>
          done
        </Button>
      </div>
      <p className="mt-2 text-faded">
        A power factor goes last: “2 x 50 W lights pf 0.9”, from {pf.lo} to {pf.hi}. “sockets” alone counts the full
        device rating.
      </p>
    </form>
  );
}

function loadMeaning(load: Pick<Load, "amount" | "basis" | "kind" | "quantity" | "pf">): string {
  const kind = load.kind.replaceAll("_", " ");
  if (load.basis === "In") return `${kind}, taken as In`;
  if (load.amount === null) return `${kind}, rating not known`;
  return `${load.quantity} × ${shortFigure(load.amount)} ${load.basis}, ${kind}, pf ${load.pf}`;
}

/** One span: its length. Several: each has its own field; the first one typed into takes what was typed on the word. */
function LengthEditor({ circuit, typed, close, next }: EditorProps & { circuit: Circuit }) {
  const store = useStore();
  const rules = useRules();
  const limits = useLimits("span.length");
  const { lying } = useRoutes();
  const spans = circuit.run.spans.map(lying);
  const only = spans[0];
  if (spans.length <= 1)
    return (
      <NumberEditor
        typed={typed}
        close={close}
        next={next}
        label={only ? STATEMENT.lengthRun : STATEMENT.lengthRunOne}
        value={only?.length ?? null}
        limits={limits}
        onSave={(length) =>
          store.edit([
            only
              ? setFields("span", only.id, { length })
              : change("add", "span", crypto.randomUUID(), { parent: circuit.id, fields: { length } }),
          ])
        }
        after={<p className="mt-2 text-faded">{STATEMENT.setHowEach}</p>}
      />
    );
  return (
    <form
      onSubmit={(event) => {
        event.preventDefault();
        next();
      }}
    >
      {spans.map((span, i) => (
        <div key={span.id} className="mb-2">
          <NumberField
            label={`${i + 1}. ${span.name || rules.places.find((p) => p.id === span.place)?.title || "a span"}`}
            value={span.length}
            limits={limits}
            onSave={(length) => store.edit([setFields("span", span.id, { length })])}
          />
        </div>
      ))}
      <Button type="submit" strong>
        done
      </Button>
    </form>
  );
}

function ZeEditor(editor: EditorProps) {
  const store = useStore();
  const { inputs } = useJob();
  const limits = useLimits("supply.ze");
  if (!inputs) return null;
  const { supply } = inputs;
  return (
    <NumberEditor
      {...editor}
      label={STATEMENT.zeExternalEarth}
      value={supply.ze}
      limits={limits}
      optional
      onSave={(ze) => store.edit([setFields("supply", NOBODY, { ze })])}
      after={
        <fieldset className="mt-3">
          <legend className="text-faded">{STATEMENT.howKnown}</legend>
          {SOURCES.map((source) => (
            <label key={source} className="mr-3 inline-flex items-center gap-1.5">
              <input
                type="radio"
                name="ze_source"
                checked={supply.ze_source === source}
                onChange={() => store.edit([setFields("supply", NOBODY, { ze_source: source })])}
              />
              {source}
            </label>
          ))}
        </fieldset>
      }
    />
  );
}
